//! A trickle of traffic: NR and secondary carriers vanish from an idle line.

use std::time::Duration;
use tokio::sync::oneshot;
use tokio_util::sync::CancellationToken;

/// Asks `url` for a short answer a few times a second until cancelled. Failures are passed over: a trickle is a
/// courtesy, the reading itself says what was heard. `begun` is told of the first answer, or the first failure.
pub async fn trickle(url: &str, with_head: bool, cancel: CancellationToken, begun: oneshot::Sender<()>) {
    let Ok(client) = open_beacon_outbound::client(open_beacon_outbound::Redirects::SameHost)
        .timeout(Duration::from_secs(2))
        .build()
    else {
        return;
    };
    let mut begun = Some(begun);
    while !cancel.is_cancelled() {
        let request = if with_head { client.head(url) } else { client.get(url) };
        let asked = async {
            if let Ok(response) = open_beacon_outbound::send(request).await {
                let _ = response.bytes().await;
            }
            if let Some(begun) = begun.take() {
                // Nobody waiting is fine.
                let _ = begun.send(());
            }
            tokio::time::sleep(Duration::from_millis(300)).await;
        };
        tokio::select! {
            () = cancel.cancelled() => return,
            () = asked => {}
        }
    }
}
