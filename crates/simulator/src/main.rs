//! `open-beacon-stand-in`: the invented valley on four local addresses.

use anyhow::Context;
use axum::Router;
use chrono::Utc;
use clap::{Parser, Subcommand};
use open_beacon_simulator::at::serve_at;
use open_beacon_simulator::demo_site::{Addresses, demo_site};
use open_beacon_simulator::device::Device;
use open_beacon_simulator::pages::gateway_router;
use open_beacon_simulator::serve::{StandIn, control_router};
use std::io::Write;
use std::path::PathBuf;
use std::time::Duration;
use tokio::net::TcpListener;

#[derive(Parser)]
#[command(about = "Stand-in gateway, speed-test end and antenna for demo and tests")]
struct Arguments {
    #[command(subcommand)]
    command: Command,
}

#[derive(Subcommand)]
enum Command {
    /// Serve until stopped; prints the four addresses as one line of JSON.
    Serve {
        #[arg(long, default_value_t = 7)]
        seed: u64,
        /// How often the status page is renewed, ms.
        #[arg(long, default_value_t = 2000)]
        refresh_ms: u64,
        /// First of four ports; 0 takes free ones.
        #[arg(long, default_value_t = 0)]
        port: u16,
        /// How many times sooner it attaches anew after a lock.
        #[arg(long, default_value_t = 1.0)]
        hurry: f64,
    },
    /// Write the demo site as JSON. The addresses go into its settings.
    DemoSite {
        #[arg(long, default_value_t = 7)]
        seed: u64,
        #[arg(long, default_value = "http://127.0.0.1:7421/status.json")]
        status_url: String,
        #[arg(long, default_value = "http://127.0.0.1:7422")]
        speed_url: String,
        #[arg(long, default_value = "http://127.0.0.1:7423")]
        control_url: String,
        file: PathBuf,
    },
}

#[tokio::main]
async fn main() -> anyhow::Result<()> {
    match Arguments::parse().command {
        Command::Serve { seed, refresh_ms, port, hurry } => {
            serve(seed, Duration::from_millis(refresh_ms), port, hurry).await
        }
        Command::DemoSite { seed, status_url, speed_url, control_url, file } => {
            let bundle = demo_site(seed, &Addresses { status_url, speed_url, control_url });
            std::fs::write(&file, serde_json::to_string(&bundle)?)
                .with_context(|| format!("writing {}", file.display()))
        }
    }
}

async fn serve(seed: u64, refresh: Duration, port: u16, hurry: f64) -> anyhow::Result<()> {
    let stand_in = StandIn::hurried(Utc::now(), Device::new(seed), refresh, hurry);
    let bind = |offset: u16| async move {
        let wanted = if port == 0 { 0 } else { port + offset };
        TcpListener::bind(("127.0.0.1", wanted)).await.with_context(|| format!("port {wanted}"))
    };
    let (status, speed, control, modem) = (bind(0).await?, bind(1).await?, bind(2).await?, bind(3).await?);
    let addresses = serde_json::json!({
        "status_url": format!("http://{}/status.json", status.local_addr()?),
        "speed_url": format!("http://{}", speed.local_addr()?),
        "at_url": format!("tcp://{}", modem.local_addr()?),
        "control_url": format!("http://{}", control.local_addr()?),
    });
    println!("{addresses}");
    std::io::stdout().flush()?;
    let run = |listener: TcpListener, router: Router| async move {
        axum::serve(open_beacon_speedtest::without_delay(listener), router).await
    };
    tokio::try_join!(
        run(status, gateway_router(stand_in.clone())),
        run(speed, open_beacon_speedtest::router(stand_in.clone())),
        serve_at(modem, stand_in.clone()),
        run(control, control_router(stand_in)),
    )?;
    Ok(())
}
