//! Watching gateways: one connection a site, only while somebody looks, its readings handed to all who do.

use crate::outside::Outside;
use chrono::{DateTime, Utc};
use open_beacon_core::model::{GatewaySecrets, GatewaySettings, SiteId};
use open_beacon_gateway::{
    CloseLook, Driver, DriverError, LinkState, LinkStatus, LoginAttempts, Look, PageRecorder, Watcher,
    test_connection,
};
use open_beacon_store::Store;
use std::collections::{HashMap, VecDeque};
use std::sync::atomic::{AtomicUsize, Ordering};
use std::sync::{Arc, Mutex, PoisonError};
use std::time::Duration;
use tokio::sync::{broadcast, watch};
use tokio::task::JoinHandle;
use tokio::time::Instant;

/// A gateway is watched this long after the last one looked away, so that a reloaded page finds it warm.
const LINGER: Duration = Duration::from_secs(20);
/// New measurements that are kept in memory, for points that a phone took while it could not reach this program.
const REMEMBERED: usize = 4000;

/// All watched gateways.
#[derive(Clone, Debug)]
pub struct LinkHub {
    store: Arc<Store>,
    outside: Outside,
    feeds: Arc<Mutex<HashMap<SiteId, Arc<Feed>>>>,
}

#[derive(Debug)]
struct Feed {
    site: SiteId,
    store: Arc<Store>,
    outside: Outside,
    state: watch::Sender<LinkState>,
    looks: broadcast::Sender<Look>,
    leases: AtomicUsize,
    /// Watched until then though nobody looks: a phone on the roof may be out of reach.
    held_until: Mutex<Option<Instant>>,
    heard: Mutex<VecDeque<Look>>,
    attempts: LoginAttempts,
    /// One look at a time, a close one too: devices take few connections.
    turn: tokio::sync::Mutex<()>,
    task: Mutex<Option<JoinHandle<()>>>,
    /// The watcher's connection: a serial line cannot be opened twice.
    driver: Mutex<Option<Arc<Driver>>>,
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
    pub(crate) fn new(store: Arc<Store>, outside: Outside) -> Self {
        Self { store, outside, feeds: Arc::default() }
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

    /// Keeps a site's gateway watched for a while though nobody looks.
    pub fn hold(&self, site: SiteId, for_time: Duration) {
        let feed = self.feed(site);
        *feed.held_until.lock().unwrap_or_else(PoisonError::into_inner) = Some(Instant::now() + for_time);
        feed.ensure_running();
    }

    /// New measurements heard in a span of time, as far as they are remembered.
    pub fn heard_between(&self, site: SiteId, from: DateTime<Utc>, to: DateTime<Utc>) -> Vec<Look> {
        let feed = self.feed(site);
        let heard = feed.heard.lock().unwrap_or_else(PoisonError::into_inner);
        heard.iter().filter(|look| (from..=to).contains(&look.at)).cloned().collect()
    }

    /// Looks at a gateway once with settings that need not be saved, between two looks of the watcher.
    pub async fn test_connection(
        &self,
        site: SiteId,
        settings: &GatewaySettings,
        secrets: GatewaySecrets,
    ) -> CloseLook {
        let feed = self.feed(site);
        feed.recall_attempts(&settings.status_url).await;
        let _turn = feed.turn.lock().await;
        let look = test_connection(settings, secrets, feed.attempts.clone(), &self.outside.transport).await;
        feed.keep_attempts(&settings.status_url).await;
        look
    }

    /// Whoever records a gateway's page, with settings that need not be saved.
    ///
    /// # Errors
    /// Where the address is none, or no HTTP client can be made.
    pub(crate) async fn page_recorder(
        &self,
        site: SiteId,
        settings: &GatewaySettings,
        secrets: GatewaySecrets,
    ) -> Result<PageRecorder, DriverError> {
        let feed = self.feed(site);
        feed.recall_attempts(&settings.status_url).await;
        let recorder = PageRecorder::new(settings, secrets, feed.attempts.clone())?;
        Ok(recorder.over(&self.outside.transport))
    }

    /// The next answer for a recording, between two looks of the watcher. Failed logins count as the watcher's do.
    ///
    /// # Errors
    /// Those of [`PageRecorder::answer`].
    pub(crate) async fn record_answer(
        &self,
        site: SiteId,
        address: &str,
        recorder: &PageRecorder,
    ) -> Result<String, DriverError> {
        let feed = self.feed(site);
        let _turn = feed.turn.lock().await;
        let answer = recorder.answer().await;
        feed.keep_attempts(address).await;
        answer
    }

    /// Tells a gateway which bands to use, between two looks; without values it takes every lock away.
    ///
    /// # Errors
    /// Why it could not, a sentence without a full stop.
    pub async fn lock(
        &self,
        site: SiteId,
        settings: &GatewaySettings,
        secrets: GatewaySecrets,
        values: Option<&[(&'static str, String)]>,
    ) -> Result<(), String> {
        let feed = self.feed(site);
        let recipe = settings.recipe.lock.as_ref().ok_or("nobody has said how this gateway is locked")?;
        feed.recall_attempts(&settings.status_url).await;
        let _turn = feed.turn.lock().await;
        let known = feed.driver.lock().unwrap_or_else(PoisonError::into_inner).clone();
        let driver = match known {
            Some(driver) => driver,
            None => Arc::new(
                Driver::new(settings, secrets, feed.attempts.clone())
                    .map_err(|error| error.to_string())?
                    .over(&self.outside.transport),
            ),
        };
        let told = driver.lock(recipe, values).await.map_err(|error| match error {
            DriverError::Nonsense { problem, said } if !said.is_empty() => format!("{problem}: {said}"),
            other => other.to_string(),
        });
        feed.keep_attempts(&settings.status_url).await;
        told
    }

    /// Lets logins be tried again after two failed ones.
    pub async fn forgive_logins(&self, site: SiteId, address: &str) {
        let feed = self.feed(site);
        feed.attempts.set(0);
        feed.keep_attempts(address).await;
        self.restart(site);
    }

    /// Starts anew after the site's settings changed.
    pub fn restart(&self, site: SiteId) {
        let feed = self.feed(site);
        if let Some(task) = feed.task.lock().unwrap_or_else(PoisonError::into_inner).take() {
            task.abort();
        }
        *feed.driver.lock().unwrap_or_else(PoisonError::into_inner) = None;
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
                    outside: self.outside.clone(),
                    state: watch::channel(not_set()).0,
                    looks: broadcast::channel(32).0,
                    leases: AtomicUsize::new(0),
                    held_until: Mutex::default(),
                    heard: Mutex::default(),
                    attempts: LoginAttempts::default(),
                    turn: tokio::sync::Mutex::new(()),
                    task: Mutex::new(None),
                    driver: Mutex::new(None),
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
        let known = tokio::task::spawn_blocking(move || {
            let gateway = store.settings(site)?.gateway;
            let asleep = store.is_asleep(site)?;
            let address = gateway.as_ref().map_or("", |gateway| gateway.status_url.as_str());
            let secrets = store.gateway_secrets(site, address)?.0;
            Ok::<_, open_beacon_store::StoreError>((gateway, secrets, asleep))
        });
        let known = known.await.ok().and_then(Result::ok);
        if let Some((Some(_), _, true)) = known {
            self.state.send_replace(LinkState { status: LinkStatus::Asleep, ..not_set() });
            return;
        }
        let Some((Some(gateway), secrets, _)) = known else {
            self.state.send_replace(not_set());
            return;
        };
        self.recall_attempts(&gateway.status_url).await;
        let Ok(driver) = Driver::new(&gateway, secrets, self.attempts.clone()) else { return };
        let driver = Arc::new(driver.over(&self.outside.transport));
        *self.driver.lock().unwrap_or_else(PoisonError::into_inner) = Some(driver.clone());
        let mut watcher = Watcher::new(driver).dated_by(self.outside.clock.clone());
        self.state.send_replace(watcher.state().clone());
        let interval = Duration::from_millis(u64::from(gateway.poll_interval_ms.max(200)));
        let mut unwatched = Duration::ZERO;
        while unwatched < LINGER {
            let look = {
                let _turn = self.turn.lock().await;
                watcher.look().await
            };
            let pause = watcher.pause(interval);
            self.state.send_replace(watcher.state().clone());
            match look {
                Some(look) => {
                    self.remember(&look);
                    // Nobody recording is fine.
                    let _ = self.looks.send(look);
                }
                None => self.keep_attempts(&gateway.status_url).await,
            }
            tokio::time::sleep(pause).await;
            unwatched = if self.wanted() { Duration::ZERO } else { unwatched + pause };
        }
        *self.driver.lock().unwrap_or_else(PoisonError::into_inner) = None;
        // Not in one statement: the borrow would be held while the sender waits for it.
        let last = self.state.borrow().clone();
        self.state.send_replace(LinkState { status: LinkStatus::Waiting, ..last });
    }

    fn wanted(&self) -> bool {
        let held = *self.held_until.lock().unwrap_or_else(PoisonError::into_inner);
        self.leases.load(Ordering::Acquire) > 0 || held.is_some_and(|until| Instant::now() < until)
    }

    fn remember(&self, look: &Look) {
        if look.novelty.counts() {
            let mut heard = self.heard.lock().unwrap_or_else(PoisonError::into_inner);
            if heard.len() == REMEMBERED {
                heard.pop_front();
            }
            heard.push_back(look.clone());
        }
    }

    /// Failed logins as they are kept.
    async fn recall_attempts(&self, address: &str) {
        let (store, site, address) = (self.store.clone(), self.site, address.to_owned());
        let kept = tokio::task::spawn_blocking(move || store.gateway_secrets(site, &address)).await;
        if let Ok(Ok((_, failed))) = kept {
            self.attempts.set(failed);
        }
    }

    async fn keep_attempts(&self, address: &str) {
        let (store, site, failed) = (self.store.clone(), self.site, self.attempts.failed());
        let address = address.to_owned();
        let kept = tokio::task::spawn_blocking(move || {
            if store.gateway_secrets(site, &address)?.1 == failed {
                Ok(())
            } else {
                store.note_failed_logins(site, &address, failed)
            }
        });
        if let Ok(Err(error)) = kept.await {
            tracing::warn!(%error, "failed logins could not be kept");
        }
    }
}
