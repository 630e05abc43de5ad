//! What happens at a site, pushed to the page as server-sent events.

use crate::jobs::JobState;
use crate::problem::{Path, Problem};
use crate::state::{AppState, Changed};
use axum::extract::State;
use axum::response::sse::{Event as SseEvent, KeepAlive, Sse};
use futures::Stream;
use open_beacon_core::aim::live::{Live, LiveLearner};
use open_beacon_core::bands::carrier_frequency_mhz;
use open_beacon_core::judge::Finding;
use open_beacon_core::metrics::{CarrierClass, class_of_carrier};
use open_beacon_core::model::SiteId;
use open_beacon_core::words;
use open_beacon_gateway::LinkState;
use serde::Serialize;
use std::convert::Infallible;
use std::time::Instant;
use tokio::sync::watch;
use utoipa::ToSchema;
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

pub(super) fn routes() -> OpenApiRouter<AppState> {
    OpenApiRouter::new().routes(routes!(get_events))
}

/// What the core says of one carrier of the link.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct CarrierNote {
    pub class: Option<CarrierClass>,
    /// Downlink frequency by the channel number, MHz.
    pub frequency_mhz: Option<f64>,
}

/// The link with what the core says of it.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct LinkView {
    #[serde(flatten)]
    pub state: LinkState,
    /// How the gateway is connected, in words.
    pub sentence: Option<String>,
    /// One for each carrier of the reading.
    pub notes: Vec<CarrierNote>,
    /// The widest carrier, smoothed for the hand at the antenna.
    pub live: Option<Live>,
}

/// One event; the stream's event name is its `kind`.
#[derive(Clone, Debug, Serialize, ToSchema)]
#[serde(tag = "kind", rename_all = "snake_case")]
pub enum Event {
    Link {
        link: LinkView,
    },
    Job {
        job: JobState,
    },
    /// Something stored has changed: ask again for what is shown of it.
    Changed {
        change: Changed,
    },
}

fn link_view(state: &LinkState, live: Option<Live>) -> LinkView {
    let carriers = state.reading.as_ref().map(|reading| reading.carriers.as_slice()).unwrap_or_default();
    let notes: Vec<CarrierNote> = carriers
        .iter()
        .map(|carrier| CarrierNote {
            class: class_of_carrier(carrier),
            frequency_mhz: carrier_frequency_mhz(carrier),
        })
        .collect();
    let best = notes.iter().filter_map(|note| note.class.map(|class| class.class)).max();
    let sentence = state.reading.as_ref().map(|reading| {
        let connected = Finding::Connected { mode: reading.mode, carriers: carriers.len(), best };
        words::sentence(&connected, words::Style::default())
    });
    LinkView { state: state.clone(), sentence, notes, live }
}

/// Events of a site: the link whenever the gateway was looked at, the job as it goes on, and a hint whenever
/// something stored has changed. The gateway is watched while the stream is open.
#[utoipa::path(get, path = "/api/sites/{id}/events", params(("id" = SiteId, Path)),
    responses((status = 200, content_type = "text/event-stream", body = Event), (status = 404, body = Problem)))]
async fn get_events(
    State(app): State<AppState>,
    Path(id): Path<SiteId>,
) -> Result<Sse<impl Stream<Item = Result<SseEvent, Infallible>>>, Problem> {
    let settings = app.db(move |store| store.settings(id)).await?;
    super::stand_in::follow(&app, id, &settings).await;
    let (sender, receiver) = tokio::sync::mpsc::channel(16);
    tokio::spawn(pump(app, id, sender));
    let stream =
        futures::StreamExt::map(tokio_stream::wrappers::ReceiverStream::new(receiver), |event: Event| {
            Ok(as_sse(&event))
        });
    Ok(Sse::new(stream).keep_alive(KeepAlive::default()))
}

fn as_sse(event: &Event) -> SseEvent {
    let name = match event {
        Event::Link { .. } => "link",
        Event::Job { .. } => "job",
        Event::Changed { .. } => "changed",
    };
    SseEvent::default().event(name).json_data(event).unwrap_or_default()
}

async fn pump(app: AppState, site: SiteId, to: tokio::sync::mpsc::Sender<Event>) {
    let mut lease = app.links.lease(site);
    let mut changes = app.changes.subscribe();
    let mut turned_away = app.turned_away.subscribe();
    let mut started = app.jobs.started();
    let mut job = app.jobs.state(site);
    let (mut learner, began) = (LiveLearner::default(), Instant::now());
    lease.state.mark_changed();
    loop {
        let event = tokio::select! {
            () = to.closed() => return,
            () = app.stopping.cancelled() => return,
            // Whoever it was must not hear on; the others ask again by themselves.
            _ = turned_away.recv() => return,
            changed = lease.state.changed() => match changed {
                Ok(()) => {
                    let state = lease.state.borrow_and_update();
                    let reading = state.reading.as_ref();
                    let live = reading.and_then(|reading| learner.take(reading, began.elapsed().as_secs_f64()));
                    Event::Link { link: link_view(&state, live) }
                }
                Err(_) => return,
            },
            state = job_changed(&mut job) => Event::Job { job: state },
            _ = started.changed() => {
                job = app.jobs.state(site);
                continue;
            }
            change = changes.recv() => match change {
                Ok((changed, _)) if changed != site => continue,
                Ok((_, change)) => Event::Changed { change },
                // Hints that were missed are made good by asking for all.
                Err(_) => Event::Changed { change: Changed::Everything },
            },
        };
        if to.send(event).await.is_err() {
            return;
        }
    }
}

/// The job's next state; never resolves where there is none.
async fn job_changed(job: &mut Option<watch::Receiver<JobState>>) -> JobState {
    if let Some(state) = job
        && state.changed().await.is_ok()
    {
        return state.borrow_and_update().clone();
    }
    std::future::pending().await
}
