//! Torn, foreign and stale pages are no readings; figures are found by what they are called; what cannot be is refused.

use super::{serve, settings};
use axum::Router;
use axum::extract::State;
use axum::http::StatusCode;
use axum::response::{Html, IntoResponse, Response};
use axum::routing::{get, post};
use open_beacon_domain::check::Checker;
use open_beacon_domain::model::*;
use open_beacon_gateway::*;
use serde_json::{Value, json};
use std::sync::atomic::{AtomicI64, AtomicUsize, Ordering};
use std::sync::{Arc, Mutex};

const LTE: &str = "<h3>LTE</h3><table><tr><td>Band</td><td>B3</td></tr><tr><td>EARFCN</td><td>1300</td></tr>\
    <tr><td>RSRP</td><td>-97 dBm</td></tr><tr><td>SINR</td><td>SINR: 12,5 dB</td></tr></table>";
const NR: &str = "<h3>5G NR</h3><table><tr><td>Band</td><td>n78</td></tr><tr><td>ARFCN</td><td>636666</td></tr>\
    <tr><td>RSRP</td><td>-88 dBm</td></tr><tr><td>SINR</td><td>14 dB</td></tr></table>";

fn page_of(parts: &[&str]) -> String {
    format!("<html><head><title>Status</title></head><body>{}</body></html>", parts.concat())
}

fn at(field: PageField, at: &str) -> FieldAt {
    FieldAt::plain(field, at)
}

fn said(technology: &str) -> FieldAt {
    FieldAt { fixed: technology.into(), ..at(PageField::Technology, "") }
}

fn group(place: &str, technology: &str, channel: &str) -> CarrierGroup {
    let fields = [
        (PageField::Band, "Band"),
        (PageField::Channel, channel),
        (PageField::RsrpDbm, "RSRP"),
        (PageField::SinrDb, "SINR"),
    ];
    let fields = fields.iter().map(|(field, name)| at(*field, &format!("/{name}")));
    CarrierGroup { at: place.into(), fields: std::iter::once(said(technology)).chain(fields).collect() }
}

fn by_heading() -> FieldMap {
    let carriers = vec![group("/named/LTE/rows", "lte", "EARFCN"), group("/named/5G NR/rows", "nr", "ARFCN")];
    FieldMap { mode: None, carriers, neighbours: Vec::new() }
}

fn recipe(map: FieldMap) -> GatewayRecipe {
    GatewayRecipe { format: PageFormat::Html, map: Some(map), ..GatewayRecipe::default() }
}

/// A page that answers what it is given, one answer after another; the last again and again.
async fn answering(answers: &[&str]) -> String {
    let answers: Vec<String> = answers.iter().map(|one| (*one).to_owned()).collect();
    let at = Arc::new(AtomicUsize::new(0));
    let next = move || {
        let answer = answers[at.fetch_add(1, Ordering::Relaxed).min(answers.len() - 1)].clone();
        async move { Html(answer) }
    };
    serve(Router::new().route("/status.json", get(next))).await
}

fn driver_with(address: &str, recipe: GatewayRecipe) -> Driver {
    let settings = GatewaySettings { recipe, ..settings(address) };
    let refused = Checker::default().gateway(&settings).done();
    assert!(refused.is_empty(), "{refused:?}");
    let secrets = GatewaySecrets { user: "admin".into(), password: "secret".into() };
    Driver::new(&settings, secrets, LoginAttempts::default()).unwrap()
}

fn problem(read: Result<Reading, DriverError>) -> String {
    match read {
        Err(DriverError::Nonsense { problem, .. }) => problem,
        other => panic!("{other:?}"),
    }
}

/// Seen: full, half, full was taken for three independent samples.
#[tokio::test]
async fn half_a_page_is_no_reading() {
    let whole = page_of(&[LTE, NR]);
    let half = &whole[..whole.find("636666").unwrap()];
    let driver = driver_with(&answering(&[&whole, half, &whole]).await, recipe(by_heading()));
    assert_eq!(driver.read().await.unwrap().carriers.len(), 2);
    assert!(problem(driver.read().await).contains("torn"));
    assert_eq!(driver.read().await.unwrap().mode, ConnectionMode::Nsa);

    // Told by the recipe, the first look need not be a whole one.
    let mut marked = recipe(by_heading());
    marked.checks.end_mark = "</html>".into();
    assert!(
        problem(driver_with(&answering(&[half]).await, marked).read().await)
            .contains("does not end with </html>")
    );
    let mut required = recipe(by_heading());
    required.checks.required = vec![PageField::RsrpDbm, PageField::Channel];
    let told = problem(driver_with(&answering(&[half]).await, required).read().await);
    assert!(told.contains("carrier 2 shows no RSRP"), "{told}");
}

/// Seen: any page without the table was recorded as no service.
#[tokio::test]
async fn no_service_needs_evidence() {
    let other = page_of(&["<h1>Firmware</h1><p>Choose a file.</p>"]);
    let mut with = recipe(by_heading());
    assert!(
        problem(driver_with(&answering(&[&other]).await, with.clone()).read().await)
            .contains("/named/LTE/rows")
    );
    // The table is there and empty, as while a page is being built.
    let bare = page_of(&[
        "<h3>LTE</h3><table><tr><td>Band</td><td>-</td></tr><tr><td>RSRP</td><td></td></tr></table>",
    ]);
    let told = problem(driver_with(&answering(&[&bare]).await, with.clone()).read().await);
    assert!(told.contains("does not say that there is no service"), "{told}");

    with.checks.no_service = vec![PageCondition { at: String::new(), is: "Searching for network".into() }];
    let searching = page_of(&["<p>Searching for network</p>"]);
    let driver = driver_with(&answering(&[&searching, &other]).await, with);
    assert_eq!(driver.read().await.unwrap(), Reading::no_service());
    assert!(driver.read().await.is_err());
    // Its own word, and a list that is there and empty, are evidence.
    for page in [json!({"radio": {"mode": "no_service", "carriers": []}}), json!({"radio": {"carriers": []}})]
    {
        assert_eq!(read_fields(&page, &FieldMap::default()).unwrap().mode, ConnectionMode::NoService);
    }
}

/// Seen: `error_code` with zeros became an RSRP of 0 dBm.
#[tokio::test]
async fn an_error_with_zeros_is_no_reading() {
    let zeros = json!({"technology": "lte", "band": 0, "pci": 0, "rsrp": 0, "rsrq": 0, "sinr": 0});
    let page = |error: Value| json!({"error_code": error, "radio": {"carriers": [zeros]}}).to_string();
    for error in [json!(125_003), json!("session timeout"), json!(true)] {
        let driver = driver_with(&answering(&[&page(error.clone())]).await, GatewayRecipe::default());
        let told = problem(driver.read().await);
        assert!(told.contains("reports an error (error_code"), "{told}");
    }
    // The code says that all is well, and the zeros are only filled in.
    let driver = driver_with(&answering(&[&page(json!(0))]).await, GatewayRecipe::default());
    assert!(problem(driver.read().await).contains("shows no carrier"));
    // A SINR of 0 dB is a measurement.
    let driver = driver_with(
        &answering(&[
            &json!({"radio": {"carriers": [{"technology": "lte", "rsrp": -97, "sinr": 0}]}}).to_string()
        ])
        .await,
        GatewayRecipe::default(),
    );
    assert_eq!(driver.read().await.unwrap().carriers[0].sinr_db, Some(0.0));
}

#[tokio::test]
async fn conditions_of_a_recipe_have_to_hold() {
    let page = json!({"status": {"code": 200, "text": "OK"}, "radio": {"carriers": [{"technology": "lte", "rsrp": -97}]}});
    let mut with = GatewayRecipe::default();
    with.checks.must_hold = vec![
        PageCondition { at: "/status/code".into(), is: "200".into() },
        PageCondition { at: "/status/text".into(), is: "ok".into() },
    ];
    let mut busy = page.clone();
    busy["status"]["code"] = json!(503);
    let address = answering(&[&page.to_string(), &busy.to_string()]).await;
    let driver = driver_with(&address, with.clone());
    assert!(driver.read().await.is_ok());
    let told = problem(driver.read().await);
    assert!(told.contains("“200” does not stand at /status/code"), "{told}");

    with.checks.must_hold[0].at = "no pointer".into();
    let broken = GatewaySettings { recipe: with, ..settings(&address) };
    let refused = Checker::default().gateway(&broken).done();
    assert_eq!(refused[0].pointer, "/gateway/recipe/checks/must_hold/0/at");
}

/// Where the session is: how often one signed in, and whether one is in.
#[derive(Default)]
struct Door {
    logins: AtomicUsize,
    inside: Mutex<bool>,
}

/// A gateway whose expired session answers a page like any other, and whose login lands on a page that is not there.
fn odd_door() -> (Arc<Door>, Router) {
    let door = Arc::new(Door::default());
    async fn status(State(door): State<Arc<Door>>) -> Html<String> {
        let inside = *door.inside.lock().unwrap();
        let hint = "<p>Do not forget to sign in on your phone, too.</p>";
        Html(if inside { page_of(&[LTE, NR, hint]) } else { page_of(&["<h1>Welcome</h1>"]) })
    }
    async fn login(State(door): State<Arc<Door>>) -> Response {
        door.logins.fetch_add(1, Ordering::Relaxed);
        *door.inside.lock().unwrap() = true;
        StatusCode::NOT_FOUND.into_response()
    }
    let router = Router::new()
        .route("/status.json", get(status))
        .route("/login", post(login))
        .with_state(door.clone());
    (door, router)
}

/// Seen: an expired session was recorded as no service, and the login never renewed.
#[tokio::test]
async fn a_session_that_ran_out_is_renewed() {
    let (door, router) = odd_door();
    let step = LoginStep {
        method: AskMethod::Post,
        path: "/login".into(),
        body: "user=${user}&password=${password}".into(),
        ..LoginStep::default()
    };
    let with = GatewayRecipe { login: Login::Steps { steps: vec![step] }, ..recipe(by_heading()) };
    let driver = driver_with(&serve(router).await, with);
    assert_eq!(
        driver.read().await.unwrap().carriers.len(),
        2,
        "a login may land on a 404, and pages may say “sign in”"
    );
    *door.inside.lock().unwrap() = false;
    assert_eq!(driver.read().await.unwrap().carriers.len(), 2);
    assert_eq!(door.logins.load(Ordering::Relaxed), 2);
    // A page that stays foreign is no reason to sign in at every look: devices lock their owner out.
    *door.inside.lock().unwrap() = false;
    assert!(driver.read().await.is_err());
    assert!(driver.read().await.is_err());
    assert_eq!(door.logins.load(Ordering::Relaxed), 2);
}

#[tokio::test]
async fn a_stated_sign_tells_the_page_that_asks_to_be_signed_in_to() {
    let step = LoginStep { method: AskMethod::Post, path: "/login".into(), ..LoginStep::default() };
    let mut with = GatewayRecipe { login: Login::Steps { steps: vec![step] }, ..recipe(by_heading()) };
    with.checks.login_signs = vec!["Bitte anmelden".into()];
    let shut = page_of(&["<h1>Bitte anmelden</h1>"]);
    let router = Router::new()
        .route("/status.json", get(move || async move { Html(shut) }))
        .route("/login", post(|| async { "" }));
    let read = driver_with(&serve(router).await, with).read().await;
    assert!(matches!(read, Err(DriverError::LoginFailed { .. })), "{read:?}");
}

/// Seen: the NR table vanished, the next one moved into its place, and LTE B7 was logged as NR.
#[tokio::test]
async fn a_table_that_vanished_shifts_nothing() {
    let b7 =
        LTE.replace("<h3>LTE</h3>", "<h3>LTE secondary</h3>").replace("B3", "B7").replace("1300", "3100");
    let (whole, without) = (page_of(&[LTE, NR, &b7]), page_of(&[LTE, &b7]));
    let driver = driver_with(&answering(&[&whole, &without]).await, recipe(by_heading()));
    assert_eq!(driver.read().await.unwrap().carriers.len(), 2);
    let left = driver.read().await.unwrap();
    assert_eq!((left.mode, left.carriers.len(), left.carriers[0].band), (ConnectionMode::Lte, 1, Some(3)));

    // By position, the channel number tells.
    let cell = |field, row: u8| at(field, &format!("/{row}/1"));
    let placed = CarrierGroup {
        at: "/tables".into(),
        fields: vec![
            said("nr"),
            at(PageField::Band, "/0/1"),
            cell(PageField::Channel, 1),
            cell(PageField::RsrpDbm, 2),
        ],
    };
    let page = parse_page(&without, PageFormat::Html).unwrap();
    let map = FieldMap { mode: None, carriers: vec![placed], neighbours: Vec::new() };
    let Err(error) = read_fields(&page, &map) else { panic!("LTE was read as NR") };
    assert!(error.to_string().contains("channel 1300, which only LTE has"), "{error}");
}

#[test]
fn figures_are_found_by_name_inside_texts_and_at_other_places() {
    let page = json!({"cells": [
        {"label": "RSRP:", "value": "-101.5 dBm"}, {"label": "Quality", "value": "RSRQ = -11"},
        {"label": "SINR", "value": "N/A"}, {"label": "a/b", "value": 6300}], "snr": "7"});
    let sinr = FieldAt {
        or: vec!["/nowhere".into(), "/snr".into()],
        ..at(PageField::SinrDb, "/cells/[label=sinr]/value")
    };
    let fields = vec![
        said("lte"),
        at(PageField::RsrpDbm, "/cells/[label=rsrp]/value"),
        at(PageField::RsrqDb, "/cells/[label=Quality]/value"),
        at(PageField::Channel, "/cells/[label=a~1b]/value"),
        sinr,
    ];
    let carriers = vec![CarrierGroup { at: String::new(), fields }];
    let map = FieldMap { mode: None, carriers, neighbours: Vec::new() };
    let read = read_fields(&page, &map).unwrap();
    let cell = &read.carriers[0];
    assert_eq!((cell.rsrp_dbm, cell.rsrq_db, cell.sinr_db), (Some(-101.5), Some(-11.0), Some(7.0)));
    assert_eq!(cell.channel, Some(6300));
    let mut shuffled = page.clone();
    shuffled["cells"].as_array_mut().unwrap().reverse();
    assert_eq!(read_fields(&shuffled, &map).unwrap(), read, "the order of a list does not matter");
}

#[test]
fn a_suggested_map_finds_every_table_by_its_heading() {
    let list = "<h2>Neighbour cells</h2><table><tr><th>Band</th><th>PCI</th><th>RSRP</th></tr>\
        <tr><td>3</td><td>87</td><td>-104</td></tr><tr><td>3</td><td>91</td><td>-109</td></tr></table>";
    let both = "<table><tr><th colspan=2>LTE serving</th></tr><tr><td>Band</td><td>B20</td></tr><tr><td>RSRP</td><td>-99</td></tr>\
        <tr><th colspan=2>NR serving</th></tr><tr><td>Band</td><td>n28</td></tr><tr><td>RSRP</td><td>-95</td></tr></table>";
    for (parts, carriers, neighbours) in
        [(vec![LTE, NR, list], vec![Some(3), Some(78)], 2), (vec![both], vec![Some(20), Some(28)], 0)]
    {
        let page = parse_page(&page_of(&parts), PageFormat::Html).unwrap();
        let map = suggest_map(&page).unwrap();
        assert!(map.carriers.iter().all(|group| group.at.starts_with("/named/")), "{map:?}");
        let read = read_fields(&page, &map).unwrap();
        let mut bands: Vec<Option<u16>> = read.carriers.iter().map(|one| one.band).collect();
        bands.sort_unstable();
        assert_eq!((bands, read.neighbours.len()), (carriers, neighbours), "{map:?}");
        assert_eq!(read.mode, ConnectionMode::Nsa);
    }
}

/// A stale NR block is not new because LTE changed.
#[tokio::test]
async fn each_carrier_is_new_by_its_own_block() {
    let shown = Arc::new(AtomicI64::new(-90));
    let value = shown.clone();
    let page = move || {
        let rsrp = value.load(Ordering::Relaxed);
        let carriers = json!([{"technology": "lte", "band": 3, "rsrp": rsrp}, {"technology": "nr", "band": 78, "rsrp": -88}]);
        async move { json!({ "radio": { "carriers": carriers } }).to_string() }
    };
    let address = serve(Router::new().route("/status.json", get(page))).await;
    let mut watcher = Watcher::new(driver_with(&address, GatewayRecipe::default()));
    let mut new = Vec::new();
    for step in 0..6 {
        shown.store(-90 - step, Ordering::Relaxed);
        let look = watcher.look().await.unwrap();
        assert!(look.novelty.counts());
        assert_eq!(look.reading.carriers[0].rsrp_dbm, Some((-90 - step) as f64));
        assert_eq!(look.reading.carriers[1].band, Some(78), "it is there, whether measured anew or not");
        new.push(look.reading.carriers[1].rsrp_dbm.is_some());
    }
    // One chance repeat is let pass.
    assert_eq!(new, [true, true, false, false, false, false]);
    let state = watcher.state().reading.as_ref().unwrap();
    assert_eq!(state.carriers[1].rsrp_dbm, Some(-88.0), "what is shown is shown");
}

/// Devices answer 200 to what they refuse: an error in the answer is an error.
#[tokio::test]
async fn a_lock_that_was_answered_with_an_error_is_refused() {
    for (answer, taken) in [
        (r#"{"error_code": 108, "message": "busy"}"#, false),
        (r#"{"result": "failure"}"#, false),
        (r#"{"success": false}"#, false),
        (r#"{"error": {"code": "100003"}, "error_code": "100003"}"#, false),
        ("<?xml version=\"1.0\"?><error><code>125002</code><errorcode>125002</errorcode></error>", false),
        (r#"{"result": "ok", "error_code": 0}"#, true),
        ("OK", true),
        ("<html><body>Saved</body></html>", true),
        ("", true),
    ] {
        let router = Router::new().route("/lock", post(move || async move { answer }));
        let address = serve(router).await;
        let request = LockRequest {
            method: AskMethod::Post,
            path: "/lock".into(),
            body: "bands=${lte_bands}".into(),
            undo_body: "bands=".into(),
            ..LockRequest::default()
        };
        let recipe = LockRecipe { request: Some(request), ..LockRecipe::default() };
        let driver =
            driver_with(&address, GatewayRecipe { lock: Some(recipe.clone()), ..GatewayRecipe::default() });
        let told = driver.lock(&recipe, Some(&[("lte_bands", "3".into())])).await;
        assert_eq!(told.is_ok(), taken, "{answer}: {told:?}");
    }
}
