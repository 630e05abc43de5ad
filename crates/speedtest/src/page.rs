//! How long a page of small parts takes to load: a line can be fast and slow to use.

use futures::future::join_all;
use open_beacon_core::model::PageLoad;
use open_beacon_outbound::{Redirects, check_address, look_up, send};
use reqwest::Url;
use std::net::{IpAddr, SocketAddr};
use std::sync::atomic::{AtomicU32, Ordering};
use std::time::Duration;
use tokio::net::TcpStream;
use tokio::time::{Instant, timeout};

/// So many connections are opened to one host at most (common practice of browsers with HTTP/1.1, no source).
const CONNECTIONS: u32 = 6;
/// What has not come by then does not come.
const PATIENCE: Duration = Duration::from_secs(20);

/// Loads a page and its parts, each of them `part_url`. `None` where no connection was to be had.
pub(crate) async fn load_page(part_url: &str) -> Option<PageLoad> {
    let url = Url::parse(part_url).ok()?;
    let began = Instant::now();
    let (addresses, name_ms) = addresses_of(&url, began).await?;
    let connecting = Instant::now();
    timeout(PATIENCE, TcpStream::connect(addresses.as_slice())).await.ok()?.ok()?;
    let connected = connecting.elapsed();

    let client = open_beacon_outbound::client(Redirects::SameHost)
        .timeout(PATIENCE)
        .pool_max_idle_per_host(CONNECTIONS as usize)
        .resolve_to_addrs(url.host_str()?, &addresses)
        .build()
        .ok()?;
    // The connection that was only timed is none of the page's.
    let since = || ms(began.elapsed().saturating_sub(connected));
    let page = send(client.get(url.clone())).await.ok().filter(|answer| answer.status().is_success())?;
    let first_byte_ms = since();
    page.bytes().await.ok()?;

    let (next, came) = (AtomicU32::new(0), AtomicU32::new(0));
    let connection = || async {
        while next.fetch_add(1, Ordering::Relaxed) < PageLoad::PARTS {
            let answer = send(client.get(url.clone())).await;
            let Some(answer) = answer.ok().filter(|answer| answer.status().is_success()) else { continue };
            if answer.bytes().await.is_ok() {
                came.fetch_add(1, Ordering::Relaxed);
            }
        }
    };
    let all = join_all((0..CONNECTIONS).map(|_| connection()));
    let in_time = timeout(PATIENCE, all).await.is_ok();
    let parts_came = came.load(Ordering::Relaxed);
    let all_ms = (in_time && parts_came == PageLoad::PARTS).then(since);
    Some(PageLoad { name_ms, connect_ms: ms(connected), first_byte_ms, all_ms, parts_came })
}

/// Where a page's host is, and how long it took to find that out; nothing where it is not to be asked.
async fn addresses_of(url: &Url, began: Instant) -> Option<(Vec<SocketAddr>, Option<f64>)> {
    let host = url.host_str()?;
    let port = url.port_or_known_default()?;
    let number = host.trim_start_matches('[').trim_end_matches(']').parse::<IpAddr>();
    let (ips, name_ms) = match number {
        Ok(ip) => (vec![SocketAddr::new(ip, port)], None),
        Err(_) => (timeout(PATIENCE, look_up(host)).await.ok()?.ok()?, Some(ms(began.elapsed()))),
    };
    let addresses: Vec<SocketAddr> = ips.iter().map(|found| SocketAddr::new(found.ip(), port)).collect();
    let asked = !addresses.is_empty() && addresses.iter().all(|address| check_address(*address).is_ok());
    asked.then_some((addresses, name_ms))
}

/// To the tenth.
fn ms(time: Duration) -> f64 {
    (time.as_secs_f64() * 1e4).round() / 10.0
}
