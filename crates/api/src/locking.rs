//! Telling a gateway which bands to use, so that whatever happens it comes back: what is about to be told is on disk
//! before it is sent, and away only once the gateway is where it should be.

use crate::heard_bands::bands_known;
use crate::link::LinkLease;
use crate::problem::Problem;
use crate::round_registry::{RestoreState, RoundStep};
use crate::sampling::begin_trickle;
use crate::state::AppState;
use open_beacon_core::metrics::Novelty;
use open_beacon_core::model::{
    BandChoice, BandRound, GatewaySecrets, LockIntent, LockRecipe, Measuring, Reading, RoundEnd, SiteId,
    SiteSettings,
};
use open_beacon_core::trial::confirm::{Confirmed, confirm, confirm_undone};
use open_beacon_core::trial::known::KnownBands;
use open_beacon_core::trial::order::lock_values;
use open_beacon_core::trial::wait::{given_up_after_s, learned_wait_s};
use open_beacon_core::words::trial::late_words;
use open_beacon_gateway::{LinkStatus, Look, is_modem};
use std::sync::{Mutex, PoisonError};
use std::time::Duration;
use tokio::time::Instant;
use tokio_util::sync::CancellationToken;

/// Longest wait for attaching where the recipe does not say.
const USUAL_WAIT: Duration = Duration::from_secs(60);
/// A reading from before the lock took hold may confirm by chance: only later ones count.
const TOO_SOON: Duration = Duration::from_secs(3);
/// Pauses between tries to go back; the last one again and again.
const TRY_AGAIN: [u64; 5] = [2, 5, 10, 20, 30];

/// Why a lock did not come about.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(crate) enum LockFailure {
    /// In use are other bands than it was told.
    Ignored,
    /// Not attached within the time.
    NoService,
    /// It took the order; whether it obeyed could not be seen, and why.
    Unseen(String),
    /// The device refused, did not answer, or the disk did not take the note.
    Failed(String),
    Cancelled,
}

/// How a site's gateway is told.
#[derive(Debug)]
pub(crate) struct LockMethod {
    pub(crate) settings: SiteSettings,
    secrets: GatewaySecrets,
    has: KnownBands,
    pub(crate) by_hand: bool,
    /// The wait that this gateway was found to need, and that as a sentence.
    learned: Mutex<Option<(Duration, String)>>,
}

fn recipe(settings: &SiteSettings) -> Option<&LockRecipe> {
    settings.gateway.as_ref()?.recipe.lock.as_ref()
}

impl LockMethod {
    pub(crate) async fn of(app: &AppState, site: SiteId, by_hand: bool) -> Result<Self, Problem> {
        app.db(move |store| {
            let settings = store.settings(site)?;
            Ok(Self {
                by_hand: by_hand || recipe(&settings).is_none(),
                learned: Mutex::default(),
                has: bands_known(store, site, &settings)?,
                secrets: match &settings.gateway {
                    Some(gateway) => store.gateway_secrets(site, &gateway.status_url)?.0,
                    None => GatewaySecrets::default(),
                },
                settings,
            })
        })
        .await
    }

    /// The wait that was learned, else the one that is set, else a usual one.
    pub(crate) fn wait(&self) -> Duration {
        if let Some((wait, _)) = &*self.learned.lock().unwrap_or_else(PoisonError::into_inner) {
            return *wait;
        }
        match recipe(&self.settings).map(|one| one.reattach_s) {
            Some(seconds) if seconds >= 5.0 => Duration::from_secs_f64(seconds),
            _ => USUAL_WAIT,
        }
    }

    /// Whether each look asks the device itself, as a modem is asked; a page may show what was measured before.
    fn answers_itself(&self) -> bool {
        let gateway = self.settings.gateway.as_ref();
        gateway.is_some_and(|gateway| is_modem(&gateway.status_url))
    }

    /// After how long it counts as without service.
    fn given_up_after(&self) -> Duration {
        Duration::from_secs_f64(given_up_after_s(self.wait().as_secs_f64()))
    }

    /// What was learned of how long this gateway takes, a sentence.
    pub(crate) fn learned(&self) -> Option<String> {
        let learned = self.learned.lock().unwrap_or_else(PoisonError::into_inner);
        learned.as_ref().map(|(_, words)| words.clone())
    }

    /// Learns from how long it took; a wait that was too short is set anew.
    async fn learn(&self, app: &AppState, site: SiteId, took: Duration) {
        let (took_s, set_s) = (took.as_secs_f64(), self.wait().as_secs_f64());
        let Some(wait_s) = learned_wait_s(took_s, set_s) else { return };
        let words = late_words(took_s, set_s, wait_s);
        *self.learned.lock().unwrap_or_else(PoisonError::into_inner) =
            Some((Duration::from_secs_f64(wait_s), words));
        let kept = app.db(move |store| {
            store.update_settings(site, |settings| {
                if let Some(lock) = settings.gateway.as_mut().and_then(|gateway| gateway.recipe.lock.as_mut())
                {
                    lock.reattach_s = wait_s;
                }
            })
        });
        if let Err(problem) = kept.await {
            tracing::warn!(?problem, "the wait that a gateway needs could not be kept");
        }
    }

    /// What keeps a choice from being told, in words.
    pub(crate) fn check(&self, choice: &BandChoice) -> Result<(), String> {
        if choice.is_free() {
            return Ok(());
        }
        self.has.order(choice).map(|_| ()).map_err(|error| error.to_string())
    }

    async fn send(&self, app: &AppState, site: SiteId, choice: &BandChoice) -> Result<(), String> {
        let gateway = self.settings.gateway.as_ref().ok_or("no gateway address is set")?;
        let values = match (choice.is_free(), &gateway.recipe.lock) {
            (false, Some(recipe)) => {
                let order = self.has.order(choice).map_err(|error| error.to_string())?;
                Some(lock_values(&order, recipe))
            }
            _ => None,
        };
        app.links.lock(site, gateway, self.secrets.clone(), values.as_deref()).await
    }
}

/// Locks a gateway and waits until it is attached as told: how long that took. Without a way of its own, hands do it and say
/// so.
pub(crate) async fn lock(
    app: &AppState,
    site: SiteId,
    way: &LockMethod,
    choice: &BandChoice,
    good: &BandChoice,
    lease: &mut LinkLease,
    cancel: &CancellationToken,
) -> Result<Duration, LockFailure> {
    let turn = app.rounds.telling(site);
    let _turn = turn.lock().await;
    step(app, site, RoundStep::Noting).await;
    let before =
        app.links.peek(site).and_then(|link| link.reading).map_or_else(Vec::new, |read| read.carriers);
    let intent =
        LockIntent { site_id: site, wanted: choice.clone(), good: good.clone(), before, noted_at: app.now() };
    app.db(move |store| store.note_lock_intent(&intent))
        .await
        .map_err(|problem| LockFailure::Failed(problem.detail))?;
    step(app, site, RoundStep::Noted).await;
    if way.by_hand {
        hands(app, site, RoundStep::ByHand, cancel).await?;
    } else {
        way.send(app, site, choice).await.map_err(LockFailure::Failed)?;
    }
    step(app, site, RoundStep::Told).await;
    step(app, site, RoundStep::Attaching).await;
    // Devices take their time to let go; the whole wait with service on other bands is no obedience.
    let took = attached(way, |reading| confirm(choice, reading), lease, cancel).await?;
    way.learn(app, site, took).await;
    Ok(took)
}

/// Waits until hands have done their part.
async fn hands(
    app: &AppState,
    site: SiteId,
    at: RoundStep,
    cancel: &CancellationToken,
) -> Result<(), LockFailure> {
    let Some(handle) = app.rounds.handle(site) else { return Ok(()) };
    step(app, site, at).await;
    tokio::select! {
        () = cancel.cancelled() => Err(LockFailure::Cancelled),
        () = handle.done.notified() => Ok(()),
    }
}

/// Waits until the gateway was seen attached as it was told, which `read` tells of a reading: how long that took. After
/// the set wait with service on other bands it is taken to have ignored what it was told; without service it is given longer.
/// Only what was measured anew since says anything: a page that stands still shows what was before.
async fn attached(
    way: &LockMethod,
    read: impl Fn(&Reading) -> Confirmed,
    lease: &mut LinkLease,
    cancel: &CancellationToken,
) -> Result<Duration, LockFailure> {
    let quiet = cancel.child_token();
    let _stop_trickle = quiet.clone().drop_guard();
    let settings = way.settings.clone();
    // NR that rides along shows on a busy line only.
    tokio::spawn(async move { begin_trickle(&settings, quiet).await });
    let told = Instant::now();
    let asked = way.answers_itself();
    let anew = |look: &Look| asked || look.novelty == Novelty::Fresh;
    let mut let_go = false;
    let mut otherwise_since: Option<Instant> = None;
    let waiting = async {
        loop {
            let Ok(look) = lease.looks.recv().await else {
                tokio::time::sleep(Duration::from_millis(200)).await;
                continue;
            };
            match read(&look.reading) {
                Confirmed::Yes if let_go || told.elapsed() >= TOO_SOON && anew(&look) => {
                    return Ok(told.elapsed());
                }
                Confirmed::Yes => otherwise_since = None,
                Confirmed::NotYet => {
                    let_go |= look.reading.carriers.is_empty();
                    otherwise_since = None;
                }
                Confirmed::Otherwise if !asked && lease.state.borrow().status == LinkStatus::Stale => {
                    otherwise_since = None;
                }
                Confirmed::Otherwise if otherwise_since.is_none() && !anew(&look) => {}
                Confirmed::Otherwise => {
                    let since = *otherwise_since.get_or_insert_with(Instant::now);
                    if since.elapsed() >= way.wait() {
                        return Err(LockFailure::Ignored);
                    }
                }
            }
        }
    };
    let waited = tokio::select! {
        () = cancel.cancelled() => return Err(LockFailure::Cancelled),
        waited = tokio::time::timeout(way.given_up_after(), waiting) => waited,
    };
    waited.unwrap_or_else(|_| match unseen(&lease.state.borrow().status, asked) {
        Some(why) => Err(LockFailure::Unseen(why)),
        // It is attached, if only since a short while, and not as it was told.
        None if otherwise_since.is_some() => Err(LockFailure::Ignored),
        None => Err(LockFailure::NoService),
    })
}

/// Why nothing can be seen of what a gateway does; none where it can. One that is `asked` itself may say the same again and again.
fn unseen(status: &LinkStatus, asked: bool) -> Option<String> {
    match status {
        LinkStatus::Unreachable { problem, .. }
        | LinkStatus::Nonsense { problem, .. }
        | LinkStatus::LoginFailed { problem, .. } => Some(problem.clone()),
        LinkStatus::Untrusted { .. } => Some("it shows a certificate that nobody vouches for".into()),
        LinkStatus::Stale if !asked => Some("its page did not change".into()),
        LinkStatus::NotSet
        | LinkStatus::Asleep
        | LinkStatus::Waiting
        | LinkStatus::Live
        | LinkStatus::Stale => None,
    }
}

pub(crate) async fn step(app: &AppState, site: SiteId, step: RoundStep) {
    if let Some(handle) = app.rounds.handle(site)
        && handle.state.borrow().running
    {
        handle.state.send_modify(|state| state.step = step);
        app.changed(site);
    }
    app.rounds.may_break(step).await;
}

/// What is told of a gateway of which nothing can be seen, without its subject.
pub(crate) fn unseen_words(why: &str) -> String {
    format!("took the order; whether it obeyed cannot be seen: {why}")
}

/// Why a gateway that took the order to go back is not believed.
fn not_seen_back(failure: &LockFailure, waited: Duration) -> String {
    match failure {
        LockFailure::NoService => {
            format!("it took the order and was not seen attached within {} s", waited.as_secs())
        }
        LockFailure::Unseen(why) => format!("it {}", unseen_words(why)),
        LockFailure::Ignored => "it took the order and still uses only what the lock allows".into(),
        LockFailure::Failed(why) => why.clone(),
        LockFailure::Cancelled => "it was broken off".into(),
    }
}

/// Tells a gateway to go back and reads back whether it did. What its own answer says is not enough.
async fn go_back(
    app: &AppState,
    site: SiteId,
    way: &LockMethod,
    intent: &LockIntent,
    until: &CancellationToken,
) -> Result<(), String> {
    let mut lease = app.links.lease(site);
    way.send(app, site, &intent.good).await?;
    match attached(way, |reading| confirm_undone(intent, reading), &mut lease, until).await {
        Ok(took) => way.learn(app, site, took).await,
        Err(failure) => return Err(not_seen_back(&failure, way.given_up_after())),
    }
    Ok(())
}

/// Puts a site's gateway back to the last known good, again and again until it is seen there; what to do by hand stands on the
/// screen meanwhile.
pub(crate) async fn restore(app: &AppState, site: SiteId, by_hand: bool) {
    let turn = app.rounds.telling(site);
    let _turn = turn.lock().await;
    let mut tries = 0;
    loop {
        step(app, site, RoundStep::Restoring).await;
        let until = app.rounds.begin_restore(site, &app.stopping);
        let Ok(intent) = app.db(move |store| store.lock_intent(site)).await else {
            tokio::time::sleep(Duration::from_secs(2)).await;
            continue;
        };
        let Some(intent) = intent else {
            app.rounds.set_restore(site, None);
            app.changed(site);
            return;
        };
        let way = LockMethod::of(app, site, by_hand).await;
        let hands = way.as_ref().is_ok_and(|way| way.by_hand);
        let told = match &way {
            Ok(way) if !hands => go_back(app, site, way, &intent, &until).await,
            Ok(_) => Err("this program cannot tell this gateway".into()),
            Err(problem) => Err(problem.detail.clone()),
        };
        let problem = match told {
            Ok(()) => match app.db(move |store| store.settle_lock(site, None)).await {
                Ok(()) => {
                    app.rounds.set_restore(site, None);
                    app.changed(site);
                    return;
                }
                Err(problem) => problem.detail,
            },
            Err(problem) => problem,
        };
        if app.stopping.is_cancelled() {
            return;
        }
        if until.is_cancelled() {
            continue;
        }
        tries += 1;
        let LockIntent { good, wanted, .. } = intent;
        let state = RestoreState { good, wanted, tries, problem: Some(problem), by_hand: hands };
        app.rounds.set_restore(site, Some(state));
        app.changed(site);
        if hands {
            return;
        }
        let pause = TRY_AGAIN[(tries as usize - 1).min(TRY_AGAIN.len() - 1)];
        tokio::select! {
            () = until.cancelled() => {}
            () = tokio::time::sleep(Duration::from_secs(pause)) => {}
        }
        if app.stopping.is_cancelled() {
            return;
        }
    }
}

/// Puts every gateway back that was left under a lock when the program last ended: the first thing that is done. Locks set
/// by hand are only told of, for hands to take away.
///
/// # Errors
/// Where the database does not answer.
pub async fn restore_all(app: &AppState) -> Result<(), Problem> {
    let now = app.now();
    app.db(move |store| {
        for site in store.sites()? {
            let mut rounds: Vec<BandRound> = store.entities(site.id)?;
            rounds.retain(|one| one.ended_at.is_none());
            for round in &mut rounds {
                round.ended_at = Some(now);
                round.end = Some(RoundEnd::Interrupted);
            }
            store.put_entities(site.id, &rounds)?;
        }
        Ok(())
    })
    .await?;
    for intent in app.db(open_beacon_store::Store::lock_intents).await? {
        let site = intent.site_id;
        tracing::warn!(%site, "a gateway was left under a lock; it is put back");
        let state = RestoreState {
            good: intent.good,
            wanted: intent.wanted,
            tries: 0,
            problem: None,
            by_hand: false,
        };
        app.rounds.set_restore(site, Some(state));
        // The first thing at a start: nothing else can hold it yet.
        let lease = app.measurer.take(site, Measuring::LockRestore)?;
        let app = app.clone();
        tokio::spawn(async move {
            restore(&app, site, false).await;
            drop(lease);
        });
    }
    Ok(())
}
