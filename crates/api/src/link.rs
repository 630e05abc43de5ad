//! Watching gateways: one connection a site, only while somebody looks, its readings handed to all who do.

use open_beacon_core::model::{GatewaySettings, SiteId};
use open_beacon_gateway::{Driver, FieldMap, LinkState, LinkStatus, Look, Watcher};
use open_beacon_store::Store;
use std::collections::HashMap;
use std::sync::atomic::{AtomicUsize, Ordering};
use std::sync::{Arc, Mutex, PoisonError};
use std::time::Duration;
use tokio::sync::{broadcast, watch};
use tokio::task::JoinHandle;

/// A gateway is watched this long after the last one looked away, so that a reloaded page finds it warm.
const LINGER: Duration = Duration::from_secs(20);
/// Pause after a failure, at least.
const PAUSE_AFTER_FAILURE: Duration = Duration::from_secs(2);

/// All watched gateways.
#[derive(Clone, Debug)]
pub struct LinkHub {
    store: Arc<Store>,
    feeds: Arc<Mutex<HashMap<SiteId, Arc<Feed>>>>,
}

#[derive(Debug)]
struct Feed {
    site: SiteId,
    store: Arc<Store>,
    state: watch::Sender<LinkState>,
    looks: broadcast::Sender<Look>,
    leases: AtomicUsize,
    task: Mutex<Option<JoinHandle<()>>>,
}

/// Keeps a site's gateway watched while it is held.
#[derive(Debug)]
pub struct LinkLease {
    feed: Arc<Feed>,
    /// The link's state, the newest only.
    pub state: watch::Receiver<LinkState>,
    /// Every look that brought a reading.
    pub looks: broadcast::Receiver<Look>,
}

impl Drop for LinkLease {
    fn drop(&mut self) {
        self.feed.leases.fetch_sub(1, Ordering::AcqRel);
    }
}

fn not_set() -> LinkState {
    LinkState { status: LinkStatus::NotSet, reading: None, heard_at: None, refresh_period_s: None }
}

impl LinkHub {
    pub(crate) fn new(store: Arc<Store>) -> Self {
        Self { store, feeds: Arc::default() }
    }

    /// Looks at a site's gateway from now on.
    pub fn lease(&self, site: SiteId) -> LinkLease {
        let feed = self.feed(site);
        feed.leases.fetch_add(1, Ordering::AcqRel);
        feed.ensure_running();
        LinkLease { state: feed.state.subscribe(), looks: feed.looks.subscribe(), feed }
    }

    /// What is known of a site's link, without watching it.
    pub fn peek(&self, site: SiteId) -> Option<LinkState> {
        let feeds = self.feeds.lock().unwrap_or_else(PoisonError::into_inner);
        feeds.get(&site).map(|feed| feed.state.borrow().clone())
    }

    /// Starts anew after the site's settings changed.
    pub fn restart(&self, site: SiteId) {
        let feed = self.feed(site);
        if let Some(task) = feed.task.lock().unwrap_or_else(PoisonError::into_inner).take() {
            task.abort();
        }
        if feed.leases.load(Ordering::Acquire) > 0 {
            feed.ensure_running();
        } else {
            feed.state.send_replace(not_set());
        }
    }

    fn feed(&self, site: SiteId) -> Arc<Feed> {
        let mut feeds = self.feeds.lock().unwrap_or_else(PoisonError::into_inner);
        feeds
            .entry(site)
            .or_insert_with(|| {
                Arc::new(Feed {
                    site,
                    store: self.store.clone(),
                    state: watch::channel(not_set()).0,
                    looks: broadcast::channel(32).0,
                    leases: AtomicUsize::new(0),
                    task: Mutex::new(None),
                })
            })
            .clone()
    }
}

impl Feed {
    fn ensure_running(self: &Arc<Self>) {
        let mut task = self.task.lock().unwrap_or_else(PoisonError::into_inner);
        if task.as_ref().is_none_or(JoinHandle::is_finished) {
            *task = Some(tokio::spawn(self.clone().watch()));
        }
    }

    async fn watch(self: Arc<Self>) {
        let (store, site) = (self.store.clone(), self.site);
        let settings = tokio::task::spawn_blocking(move || store.settings(site)).await;
        let gateway = settings.ok().and_then(Result::ok).and_then(|settings| settings.gateway);
        let Some(GatewaySettings { status_url, poll_interval_ms }) = gateway else {
            self.state.send_replace(not_set());
            return;
        };
        let Ok(driver) = Driver::for_address(&status_url, FieldMap::default()) else { return };
        let mut watcher = Watcher::new(driver);
        self.state.send_replace(watcher.state().clone());
        let interval = Duration::from_millis(u64::from(poll_interval_ms.max(200)));
        let mut unwatched = Duration::ZERO;
        while unwatched < LINGER {
            let look = watcher.look().await;
            let pause = if look.is_some() { interval } else { interval.max(PAUSE_AFTER_FAILURE) };
            self.state.send_replace(watcher.state().clone());
            if let Some(look) = look {
                // Nobody recording is fine.
                let _ = self.looks.send(look);
            }
            tokio::time::sleep(pause).await;
            unwatched =
                if self.leases.load(Ordering::Acquire) > 0 { Duration::ZERO } else { unwatched + pause };
        }
        // Not in one statement: the borrow would be held while the sender waits for it.
        let last = self.state.borrow().clone();
        self.state.send_replace(LinkState { status: LinkStatus::Waiting, ..last });
    }
}
