//! What the Bands stage shows.

use crate::heard_bands::{bands_known, heard_carriers, of_setup};
use crate::round_registry::{RestoreState, RoundState};
use crate::site_record::SiteRecord;
use chrono::{DateTime, Timelike, Utc};
use open_beacon_core::hardware::resolve::Resolved;
use open_beacon_core::kit::need::{Need, need};
use open_beacon_core::link::matching::{Fit, matches};
use open_beacon_core::link::predict::{LinkSetup, expected_shares, predict};
use open_beacon_core::link::receiver::Receiver;
use open_beacon_core::model::{
    BandChoice, BandRound, Carrier, ConnectionMode, Neighbour, Reading, RoundId, SiteId, SiteSettings, Trial,
    TrialGoal,
};
use open_beacon_core::spelling::write_list;
use open_beacon_core::stats::summarise;
use open_beacon_core::trial::choice::{Asked, Bundling, ChoiceOutlook, choices, outlooks};
use open_beacon_core::trial::judge::{
    BlockComparison, HourWinner, ScoringContext, Standing, Winner, by_hour, part_of, standings, winner,
    within,
};
use open_beacon_core::trial::known::KnownBands;
use open_beacon_core::trial::offer::{BandOffer, OfferInput, offer};
use open_beacon_core::trial::plan::{PlanCost, PlanInput, plan};
use open_beacon_core::words;
use open_beacon_core::words::explain::{Explanation, explanations};
use open_beacon_store::{Store, StoreError};
use serde::Serialize;
use utoipa::ToSchema;

/// A choice that could be tried.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct ChoiceRow {
    pub outlook: ChoiceOutlook,
    pub name: String,
    /// What is expected of it.
    pub expected: String,
    /// Why it is not worth a visit.
    pub hopeless: Option<String>,
    /// Chosen where the user says nothing.
    pub proposed: bool,
    /// The lock in words and masks, for hands.
    pub by_hand: HandCard,
}

/// One step for hands.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct HandCard {
    pub step: String,
    pub masks: Vec<MaskLine>,
}

/// A mask as devices take it.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct MaskLine {
    /// "LTE bands 1 to 64".
    pub name: String,
    pub decimal: String,
    pub hex: String,
}

/// A choice that was tried.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct TrialRow {
    pub standing: Standing,
    pub name: String,
    /// Why it is out.
    pub dropped: Option<String>,
    /// What keeps it down.
    pub held: Option<String>,
    /// It is the one the goal asks for.
    pub best: bool,
}

/// A winner in words.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct WinnerRow {
    pub winner: Winner,
    pub goal: String,
    pub words: String,
}

/// A part of the day in which trials were made.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, ToSchema)]
pub struct PartOfDay {
    pub part: u32,
    pub from_hour: u32,
    pub to_hour: u32,
}

/// Which part of the day is asked for.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub(crate) enum AskedPart {
    /// That of the newest round.
    #[default]
    Newest,
    All,
    Part(u32),
}

/// A part of the day in words.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct HourRow {
    pub hour: HourWinner,
    pub words: String,
}

/// A plan with what to say of it.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct PlanView {
    pub plan: PlanCost,
    pub words: String,
    /// What to do where it passes the cap.
    pub cap_words: Option<String>,
}

/// How a lock is undone.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct UndoCard {
    /// In the order they are tried.
    pub steps: Vec<String>,
    /// The device forgets a lock when it restarts.
    pub caution: String,
    pub volatile: bool,
    pub read_at: Option<DateTime<Utc>>,
}

/// A round in a list.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct RoundLine {
    pub round: BandRound,
    pub tests: usize,
    pub words: String,
}

/// Everything on bands at a site.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct BandsView {
    /// What it comes to.
    pub title: String,
    pub detail: String,
    pub offers: Vec<BandOffer>,
    /// Name of the mast that serves, where it is known.
    pub mast: Option<String>,
    pub choices: Vec<ChoiceRow>,
    pub plan: Option<PlanView>,
    pub goal: TrialGoal,
    pub need: Need,
    /// Which carriers the gateway can bundle, in their short spelling.
    pub combinations_text: String,
    /// What the gateway is locked to on purpose.
    pub kept: BandChoice,
    pub kept_words: String,
    /// This program can tell the gateway itself.
    pub can_lock: bool,
    pub undo: UndoCard,
    pub rows: Vec<TrialRow>,
    pub winners: Vec<WinnerRow>,
    pub by_hour: Vec<HourRow>,
    /// The part of the day that title, rows and winners are of, 0..8; all of it where none.
    pub part: Option<u32>,
    /// Parts of the day with trials, the newest first.
    pub parts: Vec<PartOfDay>,
    /// Repeat on another day, at this hour.
    pub repeat: Option<String>,
    pub rounds: Vec<RoundLine>,
    pub explanations: Vec<Explanation>,
    pub running_round: Option<RoundState>,
    /// What is tried now, in words.
    pub running_words: Option<String>,
    /// The card for what hands are to set now.
    pub running_card: Option<HandCard>,
    pub restoring: Option<RestoreState>,
    /// The card for hands to put the gateway back.
    pub restoring_card: Option<HandCard>,
}

/// Which choices an outlook is asked for.
enum Wanted<'a> {
    /// All that the bands on offer allow.
    All,
    These(&'a [BandChoice]),
}

struct Offered {
    outlooks: Vec<ChoiceOutlook>,
    offers: Vec<BandOffer>,
    mast: Option<String>,
}

fn offered(
    store: &Store,
    site: SiteId,
    record: &SiteRecord,
    live: Option<&Reading>,
    wanted: &Wanted,
) -> Result<Offered, StoreError> {
    let settings = &record.settings;
    let mut heard = heard_carriers(store, site, settings)?;
    let mut neighbours: Vec<Neighbour> = Vec::new();
    let mut mode = ConnectionMode::Unknown;
    if let Some(setup) = settings.active_setup_id.filter(|id| store.setup(*id).is_ok()) {
        for sample in store.newest_samples(setup, &settings.network, 3)? {
            neighbours.extend(sample.reading.neighbours);
            // NR that rides along comes and goes; seen once it is part of the connection.
            if mode == ConnectionMode::Unknown || sample.reading.mode != ConnectionMode::Lte {
                mode = sample.reading.mode;
            }
        }
    }
    if let Some(live) = live {
        let key = |one: &Carrier| (one.technology, one.band, one.channel);
        let known: Vec<_> = heard.iter().map(key).collect();
        heard.extend(live.carriers.iter().filter(|one| !known.contains(&key(one))).cloned());
        neighbours.extend(live.neighbours.clone());
        if mode == ConnectionMode::Unknown {
            mode = live.mode;
        }
    }
    let masts = &record.masts;
    let found = matches(&heard, masts, record.house);
    let mast = [Fit::Confirmed, Fit::Possible].iter().find_map(|fit| {
        let id = found.iter().find(|one| one.fit == *fit)?.mast_id;
        masts.iter().find(|mast| mast.id == id)
    });
    let resolved = record.kit.as_ref().map(|kit| Resolved::new(&kit.spec, &record.catalogue));
    let gateway = resolved.as_ref().and_then(|kit| kit.gateway).map(|(_, gateway)| gateway);
    let bundling = Bundling::of(gateway, &settings.trials.combinations);
    Ok(record.with(|radio| {
        let setup = radio.active.clone().unwrap_or_else(|| LinkSetup::new(radio.outside, radio.antenna));
        let found = predict(radio.env, &setup);
        let offers = offer(&OfferInput {
            heard: &heard,
            neighbours: &neighbours,
            mast: mast.map(|mast| (mast.name.as_str(), mast.cells.as_slice())),
            kit: resolved.as_ref(),
            settings,
            radio: found.as_ref().map(|found| (radio.env, found)),
        });
        let (down_share, up_share) = expected_shares(radio.env, &setup.location, &setup.antenna, setup.aim);
        // Choices are sums of likely rates: as on every page the median of what is expected is shown.
        let (down, up) = found.as_ref().map_or((1.0, 1.0), |found| found.median_over_likely);
        let ask = Asked {
            receiver: Some(Receiver::new(setup.antenna, settings, ConnectionMode::Unknown, 4)),
            goal: settings.trials.goal,
            need: need(&settings.kit.uses),
            link: settings.link.clone(),
            shares: (down_share * down, up_share * up),
        };
        let all = match wanted {
            Wanted::All => choices(&offers, &bundling),
            Wanted::These(these) => these.to_vec(),
        };
        let outlooks = outlooks(&offers, &all, mode, &bundling, &ask);
        Offered { outlooks, offers, mast: mast.map(|mast| mast.name.clone()) }
    }))
}

/// Scatter, and Mbit/s down and up.
type Measured = (Option<f64>, Option<(f64, f64)>);

/// Scatter of the setup's own tests, and their medians down and up.
fn measured(store: &Store, settings: &SiteSettings) -> Result<Measured, StoreError> {
    let Some(setup) = settings.active_setup_id.filter(|id| store.setup(*id).is_ok()) else {
        return Ok((None, None));
    };
    let evidence = store.evidence(setup, String::new(), Some(12))?.of_network(&settings.network);
    let values = |of: fn(&open_beacon_core::model::SpeedFigures) -> Option<f64>| -> Vec<f64> {
        evidence.tests.iter().filter_map(|test| of(&test.figures)).filter(|value| *value > 0.0).collect()
    };
    let (down, up) = (values(|one| one.download_mbps), values(|one| one.upload_mbps));
    let logs: Vec<f64> = down.iter().map(|value| value.ln()).collect();
    // 1.4826 times the median deviation is the standard deviation of normal values.
    let scatter = summarise(&logs).filter(|one| one.n >= 6).map(|one| (1.4826 * one.mad).max(0.05));
    let middle = |values: &[f64]| summarise(values).map(|one| one.median);
    Ok((scatter, middle(&down).map(|down| (down, middle(&up).unwrap_or(0.0)))))
}

/// What trying some choices takes; `None` without a speed-test address.
pub(crate) fn plan_view(
    store: &Store,
    site: SiteId,
    record: &SiteRecord,
    live: Option<Reading>,
    wanted: &[BandChoice],
) -> Result<Option<PlanView>, StoreError> {
    let settings = store.settings(site)?;
    let mut all = vec![settings.trials.kept.clone()];
    all.extend(wanted.iter().filter(|one| **one != settings.trials.kept).cloned());
    let offered = offered(store, site, record, live.as_ref(), &Wanted::These(&all))?;
    planned(store, site, &settings, &offered.outlooks.iter().collect::<Vec<_>>())
}

fn planned(
    store: &Store,
    site: SiteId,
    settings: &SiteSettings,
    rows: &[&ChoiceOutlook],
) -> Result<Option<PlanView>, StoreError> {
    let Some(speed_test) = &settings.speed_test else { return Ok(None) };
    let (scatter, measured_mbps) = measured(store, settings)?;
    let trials = of_setup(store, site, settings)?.1;
    let reattach: Vec<f64> = trials.iter().filter_map(|one| one.reattach_s).collect();
    let need = need(&settings.kit.uses);
    let found = plan(&PlanInput {
        choices: rows,
        difference: settings.trials.difference,
        scatter,
        visit_scatter: BlockComparison::of(&trials, settings.trials.goal, &need).spread(),
        reattach_s: open_beacon_core::stats::median(&reattach),
        speed_test,
        measured_mbps,
        cap_mb: settings.trials.data_cap_mb,
    });
    let cap_words = settings.trials.data_cap_mb.and_then(|cap| words::trial::cap_words(&found, cap));
    Ok(Some(PlanView { words: words::trial::plan_words(&found), cap_words, plan: found }))
}

/// How a lock of this site's gateway is undone.
pub(crate) fn undo_card(settings: &SiteSettings) -> UndoCard {
    let recipe = settings.gateway.as_ref().and_then(|one| one.recipe.lock.as_ref());
    UndoCard {
        steps: words::trial::undo_steps(recipe, &settings.trials.kept),
        caution: words::trial::BEFORE_A_LOCK.into(),
        volatile: recipe.is_some_and(|one| one.volatile),
        read_at: settings.trials.undo_read_at,
    }
}

fn hand_card(choice: &BandChoice, has: &KnownBands) -> HandCard {
    let masks = match has.order(choice) {
        Ok(order) if !choice.is_free() => words::trial::masks(&order)
            .into_iter()
            .map(|(name, word)| MaskLine { name, decimal: word.to_string(), hex: format!("{word:X}") })
            .collect(),
        _ => Vec::new(),
    };
    HandCard { step: words::trial::hand_step(choice), masks }
}

/// Everything on bands; what runs in the server is added by the caller.
pub(crate) fn bands_view(
    store: &Store,
    site: SiteId,
    record: &SiteRecord,
    live: Option<Reading>,
    asked: AskedPart,
    now: DateTime<Utc>,
) -> Result<BandsView, StoreError> {
    let settings = store.settings(site)?;
    let zone = store.site(site)?.time_zone;
    let offered = offered(store, site, record, live.as_ref(), &Wanted::All)?;
    let has = bands_known(store, site, &settings)?;
    let (rounds, all_trials) = of_setup(store, site, &settings)?;
    let mut parts: Vec<u32> = Vec::new();
    for trial in all_trials.iter().rev() {
        let part = part_of(trial.started_at, zone);
        if !parts.contains(&part) {
            parts.push(part);
        }
    }
    let part = match asked {
        AskedPart::Newest => parts.first().copied(),
        AskedPart::All => None,
        AskedPart::Part(part) => Some(part),
    };
    let trials = part.map_or_else(|| all_trials.clone(), |part| within(&all_trials, part, zone));
    let need = need(&settings.kit.uses);
    let goal = settings.trials.goal;
    let mut found = offered.outlooks;
    let score = |one: &ChoiceOutlook| one.prediction.score.map_or(0.0, |score| score.likely);
    found.sort_by(|a, b| b.choice.is_free().cmp(&a.choice.is_free()).then(score(b).total_cmp(&score(a))));
    let proposed = words::trial::proposed(&found);
    let rows: Vec<&ChoiceOutlook> =
        found.iter().zip(&proposed).filter(|(_, proposed)| **proposed).map(|(one, _)| one).collect();
    let plan = planned(store, site, &settings, &rows)?;
    let ruler = ScoringContext { goal, need, offers: &offered.offers, link: settings.link.clone(), zone };
    let mut tried: Vec<BandChoice> = Vec::new();
    for choice in rounds.iter().flat_map(|one| &one.choices).chain(trials.iter().map(|one| &one.choice)) {
        if !tried.contains(choice) {
            tried.push(choice.clone());
        }
    }
    let stands = standings(&tried, &trials, &ruler);
    let best = winner(&trials, goal, &need);
    let goals = [TrialGoal::Household, TrialGoal::Download, TrialGoal::Upload, TrialGoal::Latency];
    let winners: Vec<Winner> = goals.iter().filter_map(|goal| winner(&trials, *goal, &need)).collect();
    let hours = by_hour(&all_trials, &ruler);
    let days: std::collections::BTreeSet<_> =
        trials.iter().map(|one| one.started_at.with_timezone(&zone).date_naive()).collect();
    let hour = rounds.last().map(|one| one.started_at.with_timezone(&zone).hour());
    let running = rounds.last().is_some_and(|one| one.ended_at.is_none());
    let (title, detail) = words::trial::headline(best.as_ref(), &stands, offered.offers.len(), running);
    let repeat = (days.len() == 1 && best.is_some())
        .then(|| hour.map(|hour| words::trial::repeat_words(hour, now.with_timezone(&zone).hour())))
        .flatten();
    Ok(BandsView {
        title,
        detail,
        explanations: explanations(&offered.offers, &stands, &settings.link),
        mast: offered.mast,
        choices: found
            .into_iter()
            .zip(proposed)
            .map(|(outlook, proposed)| ChoiceRow {
                name: words::trial::choice_words(&outlook.choice),
                expected: words::trial::outlook_words(&outlook),
                hopeless: outlook.hopeless.as_ref().map(|why| words::trial::hopeless_words(why, goal)),
                by_hand: hand_card(&outlook.choice, &has),
                proposed,
                outlook,
            })
            .collect(),
        offers: offered.offers,
        plan,
        goal,
        need,
        combinations_text: write_list(&settings.trials.combinations),
        kept_words: words::trial::choice_words(&settings.trials.kept),
        kept: settings.trials.kept.clone(),
        can_lock: settings.gateway.as_ref().is_some_and(|one| one.recipe.lock.is_some()),
        undo: undo_card(&settings),
        rows: stands
            .into_iter()
            .map(|standing| TrialRow {
                name: words::trial::choice_words(&standing.choice),
                dropped: standing.dropped.as_ref().map(words::trial::dropped_words),
                held: words::trial::held_words(&standing),
                best: best.as_ref().is_some_and(|one| one.choice == standing.choice),
                standing,
            })
            .collect(),
        winners: winners
            .into_iter()
            .map(|winner| WinnerRow {
                goal: words::trial::goal_words(winner.goal).into(),
                words: words::trial::winner_words(&winner),
                winner,
            })
            .collect(),
        by_hour: hours
            .into_iter()
            .map(|hour| HourRow { words: words::trial::hour_words(&hour), hour })
            .collect(),
        part,
        parts: parts
            .into_iter()
            .map(|part| PartOfDay { part, from_hour: part * 3, to_hour: part * 3 + 3 })
            .collect(),
        repeat,
        rounds: round_lines(&rounds, &all_trials),
        running_round: None,
        running_words: None,
        running_card: None,
        restoring: None,
        restoring_card: None,
    })
}

/// What is being done, in words and as a card for hands.
pub(crate) fn with_running(
    view: BandsView,
    has: &KnownBands,
    running_round: Option<RoundState>,
    restoring: Option<RestoreState>,
) -> BandsView {
    let shown = running_round.as_ref().filter(|state| state.running);
    BandsView {
        running_words: shown.map(|state| words::trial::choice_words(&state.choice)),
        running_card: shown.map(|state| hand_card(&state.choice, has)),
        running_round,
        restoring_card: restoring.as_ref().map(|state| hand_card(&state.good, has)),
        restoring,
        ..view
    }
}

fn round_lines(rounds: &[BandRound], trials: &[Trial]) -> Vec<RoundLine> {
    let tests = |id: RoundId| trials.iter().filter(|one| one.round_id == id).map(|one| one.tests.len()).sum();
    rounds
        .iter()
        .rev()
        .map(|round| RoundLine {
            tests: tests(round.id),
            words: words::trial::round_words(round),
            round: round.clone(),
        })
        .collect()
}
