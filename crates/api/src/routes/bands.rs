//! The Bands stage: what is on offer, trials by turns, the winner and why.

use crate::heard_bands::bands_known;
use crate::locking::{LockMethod, restore};
use crate::problem::{Body, Path, Problem};
use crate::rounds;
use crate::state::AppState;
use crate::views::bands::{
    AskedPart, BandsView, PlanView, UndoCard, bands_view, plan_view, undo_card, with_running,
};
use axum::Json;
use axum::extract::{Query, State};
use axum::http::StatusCode;
use chrono::Utc;
use open_beacon_core::model::{BandChoice, BandRound, Measuring, RoundId, SiteId, SiteSettings};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

pub(super) fn routes() -> OpenApiRouter<AppState> {
    OpenApiRouter::new()
        .routes(routes!(get_bands))
        .routes(routes!(plan_round))
        .routes(routes!(read_undo))
        .routes(routes!(begin_round))
        .routes(routes!(cancel_round))
        .routes(routes!(hands_done))
        .routes(routes!(keep_choice))
        .routes(routes!(put_back))
}

/// Which part of the day is looked at.
#[derive(Clone, Debug, Deserialize)]
pub struct PartQuery {
    /// `18-21`, a multiple of three hours on; `all`; the newest round's where not said.
    part: Option<String>,
}

/// "18-21" is the seventh of eight parts.
fn part_named(text: &str) -> Option<u32> {
    let (from, to) = text.split_once('-')?;
    let (from, to): (u32, u32) = (from.parse().ok()?, to.parse().ok()?);
    (from < 24 && from % 3 == 0 && to == from + 3).then_some(from / 3)
}

impl PartQuery {
    fn part(&self) -> Result<AskedPart, Problem> {
        match self.part.as_deref() {
            None | Some("") => Ok(AskedPart::Newest),
            Some("all") => Ok(AskedPart::All),
            Some(text) => part_named(text).map(AskedPart::Part).ok_or_else(|| {
                Problem::unreadable("A part of the day by its hours, 18-21 for instance, or all.")
            }),
        }
    }
}

/// Everything on bands at a site.
#[utoipa::path(get, path = "/api/sites/{id}/bands", params(("id" = SiteId, Path), ("part" = Option<String>, Query)),
    responses((status = 200, body = BandsView), (status = 404, body = Problem)))]
async fn get_bands(
    State(app): State<AppState>,
    Path(id): Path<SiteId>,
    Query(asked): Query<PartQuery>,
) -> Result<Json<BandsView>, Problem> {
    let part = asked.part()?;
    let live = app.links.peek(id).and_then(|state| state.reading);
    let (running_round, restoring) = (app.rounds.state(id), app.rounds.restore_state(id));
    let now = Utc::now();
    let reading = app.clone();
    let view = app.db(move |store| {
        let (has, record) = (bands_known(store, id, &store.settings(id)?)?, reading.site_record(store, id)?);
        Ok(with_running(bands_view(store, id, &record, live, part, now)?, &has, running_round, restoring))
    });
    Ok(Json(view.await?))
}

/// Choices to plan for.
#[derive(Clone, Debug, Deserialize, ToSchema)]
pub struct PlanRequest {
    pub choices: Vec<BandChoice>,
}

/// What trying some choices takes.
#[utoipa::path(post, path = "/api/sites/{id}/bands/plan", params(("id" = SiteId, Path)), request_body = PlanRequest,
    responses((status = 200, body = PlanView), (status = 404, body = Problem), (status = 422, body = Problem)))]
async fn plan_round(
    State(app): State<AppState>,
    Path(id): Path<SiteId>,
    Body(asked): Body<PlanRequest>,
) -> Result<Json<PlanView>, Problem> {
    planned(&app, id, asked.choices).await.map(Json)
}

async fn planned(app: &AppState, id: SiteId, choices: Vec<BandChoice>) -> Result<PlanView, Problem> {
    let live = app.links.peek(id).and_then(|state| state.reading);
    let reading = app.clone();
    let view =
        app.db(move |store| plan_view(store, id, &*reading.site_record(store, id)?, live, &choices)).await?;
    view.ok_or_else(|| Problem::conflict("No speed-test address is set. Enter it under Settings."))
}

/// Says that the page on undoing a lock was read.
#[utoipa::path(post, path = "/api/sites/{id}/bands/undo-read", params(("id" = SiteId, Path)),
    responses((status = 200, body = UndoCard), (status = 404, body = Problem)))]
async fn read_undo(State(app): State<AppState>, Path(id): Path<SiteId>) -> Result<Json<UndoCard>, Problem> {
    let card = app
        .db(move |store| {
            let settings =
                store.update_settings(id, |settings| settings.trials.undo_read_at = Some(Utc::now()))?;
            Ok(undo_card(&settings))
        })
        .await?;
    app.changed(id);
    Ok(Json(card))
}

/// A round to begin.
#[derive(Clone, Debug, Serialize, Deserialize, ToSchema)]
pub struct NewRound {
    /// Made by the client (UUIDv7).
    pub id: RoundId,
    pub choices: Vec<BandChoice>,
    /// Hands set the locks, even where this program could.
    #[serde(default)]
    pub by_hand: bool,
    /// Stop at the data cap where the plan passes it.
    #[serde(default)]
    pub stop_at_cap: bool,
}

/// Most choices of one round.
const MOST_CHOICES: usize = 16;

impl NewRound {
    fn round(
        &self,
        site_id: SiteId,
        settings: &SiteSettings,
        choices: Vec<BandChoice>,
        planned: &PlanView,
        by_hand: bool,
    ) -> BandRound {
        BandRound {
            id: self.id,
            site_id,
            setup_id: settings.active_setup_id,
            goal: settings.trials.goal,
            choices,
            tests_a_visit: planned.plan.tests_a_visit,
            blocks: planned.plan.blocks,
            difference: settings.trials.difference,
            cap_mb: settings.trials.data_cap_mb,
            by_hand,
            started_at: Utc::now(),
            ended_at: None,
            end: None,
            reason: None,
            kept: None,
            archived_at: None,
        }
    }
}

/// Begins a round of trials; it goes on in the server. A repeat of the same identifier changes nothing.
#[utoipa::path(post, path = "/api/sites/{id}/bands/rounds", params(("id" = SiteId, Path)), request_body = NewRound,
    responses((status = 201, body = BandRound), (status = 404, body = Problem), (status = 409, body = Problem), (status = 422, body = Problem)))]
async fn begin_round(
    State(app): State<AppState>,
    Path(id): Path<SiteId>,
    Body(new): Body<NewRound>,
) -> Result<(StatusCode, Json<BandRound>), Problem> {
    let (site, settings, known) = app
        .db(move |store| {
            let rounds: Vec<BandRound> = store.entities(id)?;
            let known = rounds.into_iter().find(|one| one.id == new.id);
            Ok((store.site(id)?, store.settings(id)?, known))
        })
        .await?;
    if let Some(known) = known {
        return Ok((StatusCode::CREATED, Json(known)));
    }
    let way = LockMethod::of(&app, id, new.by_hand).await?;
    let choices = checked(&way, &new, &settings)?;
    let planned = planned(&app, id, choices.clone()).await?;
    if let (Some(words), false) = (&planned.cap_words, new.stop_at_cap) {
        return Err(Problem::conflict(format!("{words} Say that it may stop at the cap, or choose fewer.")));
    }
    let lease = app.measurer.take(id, Measuring::BandRound)?;
    let round = new.round(id, &settings, choices, &planned, way.by_hand);
    let handle = app.rounds.take_on(id, round.id, app.stopping.child_token())?;
    let stored = round.clone();
    let kept = app.db(move |store| store.put_entities(id, std::slice::from_ref(&stored))).await;
    if let Err(problem) = kept {
        handle.state.send_modify(|state| state.running = false);
        return Err(problem);
    }
    rounds::begin(&app, round.clone(), way, site.time_zone, handle, lease);
    app.changed(id);
    Ok((StatusCode::CREATED, Json(round)))
}

/// The choices as they will be tried: what it is now first, none twice, each one that this gateway can be told.
fn checked(way: &LockMethod, new: &NewRound, settings: &SiteSettings) -> Result<Vec<BandChoice>, Problem> {
    if settings.gateway.is_none() {
        return Err(Problem::conflict("No gateway address is set. Enter it under Settings."));
    }
    if settings.trials.undo_read_at.is_none() {
        return Err(Problem::conflict(
            "Read first how a lock is undone: the wrong one takes the whole house offline.",
        ));
    }
    let mut choices = vec![settings.trials.kept.clone()];
    let mut wrong = Vec::new();
    for (at, choice) in new.choices.iter().enumerate() {
        let mut choice = choice.clone();
        choice.lte.sort_unstable();
        choice.nr.sort_unstable();
        if let Err(detail) = way.check(&choice) {
            let pointer = format!("/choices/{at}");
            wrong.push(open_beacon_core::check::FieldProblem { pointer, detail });
        }
        if !choices.contains(&choice) {
            choices.push(choice);
        }
    }
    Problem::unless_valid(wrong)?;
    if choices.len() < 2 || choices.len() > MOST_CHOICES {
        return Err(Problem::unreadable(format!(
            "Choose at least one that differs from how it is now, and {} at the most.",
            MOST_CHOICES - 1
        )));
    }
    Ok(choices)
}

/// Breaks a round off; what was measured is kept, the gateway goes back.
#[utoipa::path(post, path = "/api/sites/{id}/bands/rounds/{round}/cancel", params(("id" = SiteId, Path), ("round" = RoundId, Path)),
    responses((status = 204), (status = 404, body = Problem)))]
async fn cancel_round(
    State(app): State<AppState>,
    Path((id, round)): Path<(SiteId, RoundId)>,
) -> Result<StatusCode, Problem> {
    if app.rounds.cancel(id, round) {
        Ok(StatusCode::NO_CONTENT)
    } else {
        Err(Problem::not_found("This round is not going on."))
    }
}

/// Says that a lock was set by hand as the card asked.
#[utoipa::path(post, path = "/api/sites/{id}/bands/rounds/{round}/hands", params(("id" = SiteId, Path), ("round" = RoundId, Path)),
    responses((status = 204), (status = 404, body = Problem)))]
async fn hands_done(
    State(app): State<AppState>,
    Path((id, round)): Path<(SiteId, RoundId)>,
) -> Result<StatusCode, Problem> {
    if app.rounds.state(id).is_none_or(|state| !state.running || state.round_id != round) {
        return Err(Problem::not_found("This round is not going on."));
    }
    app.rounds.hands_done(id);
    Ok(StatusCode::NO_CONTENT)
}

/// A choice that is to stay.
#[derive(Clone, Debug, Deserialize, ToSchema)]
pub struct KeepChoice {
    pub choice: BandChoice,
    /// The round it won, if it did.
    #[serde(default)]
    pub round_id: Option<RoundId>,
    #[serde(default)]
    pub by_hand: bool,
}

/// Locks to a choice for good, or takes every lock away where it is the free one. It goes on in the server.
#[utoipa::path(post, path = "/api/sites/{id}/bands/keep", params(("id" = SiteId, Path)), request_body = KeepChoice,
    responses((status = 202), (status = 404, body = Problem), (status = 409, body = Problem), (status = 422, body = Problem)))]
async fn keep_choice(
    State(app): State<AppState>,
    Path(id): Path<SiteId>,
    Body(asked): Body<KeepChoice>,
) -> Result<StatusCode, Problem> {
    let way = LockMethod::of(&app, id, asked.by_hand).await?;
    if way.settings.trials.undo_read_at.is_none() && !asked.choice.is_free() {
        return Err(Problem::conflict("Read first how a lock is undone."));
    }
    way.check(&asked.choice).map_err(|detail| {
        let pointer = "/choice".to_owned();
        Problem::invalid(vec![open_beacon_core::check::FieldProblem { pointer, detail }])
    })?;
    let rounds: Vec<BandRound> = app.db(move |store| store.entities(id)).await?;
    let round = rounds.into_iter().find(|one| Some(one.id) == asked.round_id);
    let named = round.as_ref().map_or(RoundId(uuid::Uuid::now_v7()), |one| one.id);
    let lease = app.measurer.take(id, Measuring::Lock)?;
    let handle = app.rounds.take_on(id, named, app.stopping.child_token())?;
    rounds::begin_keeping(&app, id, round, asked.choice, way, handle, lease);
    app.changed(id);
    Ok(StatusCode::ACCEPTED)
}

/// Whether hands have put the gateway back.
#[derive(Clone, Copy, Debug, Deserialize, ToSchema)]
pub struct PutBack {
    #[serde(default)]
    pub by_hand: bool,
}

/// Puts the gateway back now, or takes down that hands have.
#[utoipa::path(post, path = "/api/sites/{id}/bands/put-back", params(("id" = SiteId, Path)), request_body = PutBack,
    responses((status = 204), (status = 404, body = Problem)))]
async fn put_back(
    State(app): State<AppState>,
    Path(id): Path<SiteId>,
    Body(asked): Body<PutBack>,
) -> Result<StatusCode, Problem> {
    app.db(move |store| store.site(id)).await?;
    if asked.by_hand {
        app.db(move |store| store.settle_lock(id, None)).await?;
        app.rounds.put_back_by_hand(id);
        app.changed(id);
    } else {
        // Where it is on its way back already, this only hurries it on.
        app.rounds.hurry_restore(id);
        let lease = match app.measurer.take(id, Measuring::LockRestore) {
            Err(busy) if app.rounds.restore_state(id).is_none() => return Err(busy),
            taken => taken.ok(),
        };
        let app = app.clone();
        tokio::spawn(async move {
            restore(&app, id, false).await;
            drop(lease);
        });
    }
    Ok(StatusCode::NO_CONTENT)
}
