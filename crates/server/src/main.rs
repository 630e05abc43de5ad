//! `open-beacon`: one file with the web application inside.

mod application;
mod assets;
mod authority;
mod commands;
mod lan;
mod patience;
mod room;
mod serve;
mod speed;

use clap::{Parser, Subcommand};
use std::path::PathBuf;

#[derive(Parser)]
#[command(
    name = "open-beacon",
    version,
    about = "Find the best place and aim for a cellular antenna, and prove it"
)]
struct Arguments {
    /// Where everything is kept.
    #[arg(long, global = true, default_value = "open-beacon-data")]
    data: PathBuf,
    /// Port to listen on; another free one is taken, and said, if it is in use.
    #[arg(long, default_value_t = 7420)]
    port: u16,
    /// Let phones on the local network in, over HTTPS with an authority made on this computer.
    #[arg(long)]
    lan: bool,
    /// The same without HTTPS: no home screen, no compass, nothing without network.
    #[arg(long, conflicts_with = "lan")]
    lan_plain: bool,
    /// Port for the local network.
    #[arg(long, default_value_t = 7443)]
    lan_port: u16,
    #[command(subcommand)]
    command: Option<Command>,
}

#[derive(Subcommand)]
enum Command {
    /// Copy the database into a new file; safe while the program runs.
    Backup { file: PathBuf },
    /// Put a backup in place of the database; what stood there is kept beside it. Stop the program first.
    Restore { file: PathBuf },
    /// Bring in a site that was exported as JSON or zip.
    Import {
        file: PathBuf,
        /// You have seen what this site sends, and where: it may.
        #[arg(long)]
        allow_requests: bool,
    },
    /// Run one speed test and print it with what it went over.
    Speedtest(speed::SpeedTestArguments),
    /// Be the other end of speed tests, for instance on a rented host.
    SpeedServer(speed::SpeedServerArguments),
    /// Print the OpenAPI document.
    Openapi,
}

#[tokio::main]
async fn main() -> anyhow::Result<()> {
    tracing_subscriber::fmt()
        .with_env_filter(
            tracing_subscriber::EnvFilter::try_from_default_env()
                .unwrap_or_else(|_| "warn,open_beacon=info".into()),
        )
        .with_writer(std::io::stderr)
        .init();
    let arguments = Arguments::parse();
    match arguments.command {
        None => {
            let open = match (arguments.lan, arguments.lan_plain) {
                (false, false) => None,
                (secure, _) => Some(lan::Wanted { secure, port: arguments.lan_port }),
            };
            serve::serve(&arguments.data, arguments.port, open).await
        }
        Some(Command::Backup { file }) => commands::backup(&arguments.data, &file),
        Some(Command::Restore { file }) => commands::restore(&file, &arguments.data),
        Some(Command::Import { file, allow_requests }) => {
            commands::import(&file, &arguments.data, allow_requests)
        }
        Some(Command::Speedtest(arguments)) => speed::test(arguments).await,
        Some(Command::SpeedServer(arguments)) => speed::serve(arguments).await,
        Some(Command::Openapi) => commands::openapi(),
    }
}
