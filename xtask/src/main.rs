//! `cargo xtask …`: everything that is done with this repository, on any machine with Rust and Node.js.

mod bench;
mod client;
mod contract;
mod demo;
mod fuzz;
mod hours;
mod lint;
mod screenshots;
mod simulations;
mod supply;
mod test;
mod tools;

use clap::{Parser, Subcommand};

#[derive(Parser)]
#[command(name = "cargo xtask", about = "Build, try and test Open Beacon")]
struct Arguments {
    #[command(subcommand)]
    task: Task,
}

#[derive(Subcommand)]
enum Task {
    /// Build everything, start the stand-in devices and the application with demo data.
    Demo {
        #[arg(long, default_value_t = 7420)]
        port: u16,
        /// Go on with the data of the last demo instead of a fresh copy.
        #[arg(long)]
        keep: bool,
        /// Let a phone on the local network in.
        #[arg(long)]
        lan: bool,
    },
    /// Install what tests need and run them all.
    Test,
    /// Try the property tests again and again, with other random cases every time.
    Properties {
        #[arg(long, default_value_t = 10)]
        times: u32,
    },
    /// Run formatters and linters.
    Lint,
    /// Write the OpenAPI document and the TypeScript types made from it.
    Client {
        /// Change nothing; fail where they are not fresh.
        #[arg(long)]
        check: bool,
    },
    /// Measure start time, memory, sizes and the speed of the log.
    Bench,
    /// Try the release program against its own document with Schemathesis, which is installed by pip.
    Contract {
        #[arg(long, default_value_t = 40)]
        examples: u32,
    },
    /// Run the damage tests of every reader for some minutes each.
    Fuzz {
        #[arg(long, default_value_t = 10)]
        minutes: u64,
    },
    /// Kill the program again and again while everything is written, and look for what it acknowledged.
    Kills {
        #[arg(long, default_value_t = 200)]
        times: u32,
    },
    /// Let hours of measuring pass among faults that come and go, in memory, then ten minutes over sockets.
    Hours {
        #[arg(long, default_value_t = 200)]
        many: u32,
    },
    /// Take many sweeps of each kind by the tool's own advice in a made world, and print how they end.
    Sweeps {
        #[arg(long, default_value_t = 2000)]
        each: u32,
    },
    /// Foretell hidden households, and print how often the truth lies in the 80 % ranges.
    Households {
        #[arg(long, default_value_t = 300)]
        each: u32,
    },
    /// Compare setups of made households in every design, and print how often a difference that is none is called clear.
    Verdicts {
        /// Households for each design.
        #[arg(long, default_value_t = 300)]
        each: u32,
    },
    /// Measure links that the system holds to a rate, and compare with their payload and a throughput tool. Needs root on Linux.
    Shaped {
        /// Rates, Mbit/s.
        #[arg(long, default_value = "2,10,50,200,600")]
        rates: String,
    },
    /// Check licences and sources, and write the lists of parts.
    Supply,
    /// Take the pictures in docs/screenshots anew.
    Screenshots,
}

fn main() -> anyhow::Result<()> {
    match Arguments::parse().task {
        Task::Demo { port, keep, lan } => demo::demo(port, keep, lan),
        Task::Test => test::test(),
        Task::Properties { times } => test::properties(times),
        Task::Lint => lint::lint(),
        Task::Client { check } => client::client(check),
        Task::Bench => bench::bench(),
        Task::Contract { examples } => contract::contract(examples),
        Task::Fuzz { minutes } => fuzz::fuzz(minutes),
        Task::Kills { times } => simulations::kills(times),
        Task::Hours { many } => hours::hours(many),
        Task::Sweeps { each } => simulations::sweeps(each),
        Task::Households { each } => simulations::households(each),
        Task::Verdicts { each } => simulations::verdicts(each),
        Task::Shaped { rates } => simulations::shaped(&rates),
        Task::Supply => supply::supply(),
        Task::Screenshots => screenshots::screenshots(),
    }
}
