//! Rehearsals: invented sites with a simulated gateway inside this program, turned by hands on the screen.

use crate::problem::Problem;
use crate::state::AppState;
use chrono::Utc;
use open_beacon_core::geo::GeoPoint;
use open_beacon_core::model::{
    GatewayRecipe, GatewaySettings, Mount, Position, PositionId, Rehearsal, RehearsalKind, Site, SiteId,
    SiteSettings,
};
use open_beacon_simulator::device::{Device, Holding};
use open_beacon_simulator::pages::gateway_router;
use open_beacon_simulator::radio::Pose;
use open_beacon_simulator::rehearsal::rehearsal;
use open_beacon_simulator::serve::{StandIn, control_router};
use open_beacon_simulator::world::{HOUSE_LATITUDE_DEG, HOUSE_LONGITUDE_DEG};
use std::time::Duration;
use tokio::net::TcpListener;

/// How often a rehearsal's page is renewed: quicker than most gateways, for practice.
const REFRESH: Duration = Duration::from_millis(900);
const HEIGHT_M: f64 = 7.0;

/// How the antenna of a rehearsal stands before anybody turned it.
pub fn pose() -> Pose {
    Pose {
        height_above_ground_m: HEIGHT_M,
        mount: "roof_mast".into(),
        antenna: "external".into(),
        ..Pose::default()
    }
}

async fn begin(app: &AppState, of: Rehearsal) -> std::io::Result<(String, String)> {
    let holding = match of.kind {
        RehearsalKind::CleanMast => Holding { hysteresis_db: 4.0, serving: None },
        // Locked to the wanted mast, as one would where the other is nobody's.
        RehearsalKind::Interferer => Holding { hysteresis_db: 200.0, serving: Some(0) },
        // Moves at the least difference.
        RehearsalKind::Hopping => Holding { hysteresis_db: 0.5, serving: None },
    };
    let mut device = Device::among(u64::from(of.seed), rehearsal(of.kind, u64::from(of.seed)), holding);
    device.pose = pose();
    let stand_in = StandIn::of(device, REFRESH);
    let mut addresses = Vec::new();
    for router in [gateway_router(stand_in.clone()), control_router(stand_in)] {
        let listener = TcpListener::bind(("127.0.0.1", 0)).await?;
        addresses.push(format!("http://{}", listener.local_addr()?));
        let stopping = app.stopping.clone();
        tokio::spawn(
            axum::serve(listener, router).with_graceful_shutdown(stopping.cancelled_owned()).into_future(),
        );
    }
    Ok((format!("{}/status.json", addresses[0]), addresses[1].clone()))
}

fn settings(before: SiteSettings, of: Rehearsal, status_url: String, control_url: String) -> SiteSettings {
    SiteSettings {
        gateway: Some(GatewaySettings {
            status_url,
            poll_interval_ms: 300,
            certificate_sha256: None,
            recipe: GatewayRecipe::default(),
        }),
        stand_in_url: Some(control_url),
        stand_in_follows: false,
        rehearsal: Some(of),
        ..before
    }
}

/// Begins a rehearsal as a site of its own.
///
/// # Errors
/// Where no local port is free, or the identifiers are taken.
pub async fn create(
    app: &AppState,
    id: SiteId,
    position: PositionId,
    of: Rehearsal,
) -> Result<Site, Problem> {
    if let Ok(known) = app.db(move |store| store.site(id)).await {
        return Ok(known);
    }
    let (status_url, control_url) = begin(app, of)
        .await
        .map_err(|error| Problem::device(format!("No rehearsal could begin: {error}.")))?;
    let name = match of.kind {
        RehearsalKind::CleanMast => "Rehearsal: one clean mast",
        RehearsalKind::Interferer => "Rehearsal: an interferer beside the mast",
        RehearsalKind::Hopping => "Rehearsal: a gateway that hops",
    };
    let place = Some(GeoPoint { latitude_deg: HOUSE_LATITUDE_DEG, longitude_deg: HOUSE_LONGITUDE_DEG });
    let site = Site {
        id,
        name: name.into(),
        place,
        time_zone: chrono_tz::UTC,
        notes: String::new(),
        created_at: Utc::now(),
        archived_at: None,
    };
    let spot = Position {
        id: position,
        site_id: id,
        name: "Roof".into(),
        place,
        height_above_ground_m: Some(HEIGHT_M),
        mount: Mount::RoofMast,
        spot: Default::default(),
        notes: String::new(),
        created_at: site.created_at,
        archived_at: None,
    };
    app.db(move |store| {
        store.create_site(&site, &of)?;
        store.put_settings(id, &settings(SiteSettings::default(), of, status_url, control_url))?;
        store.create_position(&spot, &of)?;
        store.site(id)
    })
    .await
}

/// Starts the simulated gateways of all rehearsals anew: their ports went with the program.
///
/// # Errors
/// Where the database does not answer, or no local port is free.
pub async fn resume(app: &AppState) -> Result<(), Problem> {
    let sites = app.db(open_beacon_store::Store::sites).await?;
    for site in sites.into_iter().filter(|site| site.archived_at.is_none()) {
        let before = app.db(move |store| store.settings(site.id)).await?;
        let Some(of) = before.rehearsal else { continue };
        let (status_url, control_url) = begin(app, of)
            .await
            .map_err(|error| Problem::device(format!("No rehearsal could begin: {error}.")))?;
        app.db(move |store| store.put_settings(site.id, &settings(before, of, status_url, control_url)))
            .await?;
    }
    Ok(())
}
