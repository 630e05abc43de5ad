//! The test plan, sittings opened on the page, events, and the time line.

use super::*;

#[tokio::test]
async fn a_plan_is_made_and_a_sitting_is_led_through_it() {
    let (server, site) = demo().await;
    let path = format!("/api/sites/{site}/test-plan");
    let plan = server.get(&path).await;
    assert!(plan["title"].as_str().unwrap().starts_with("Still to do: "), "{plan}");
    let compared: Vec<&Value> =
        plan["setups"].as_array().unwrap().iter().filter(|one| one["compared"] == true).collect();
    assert!((2..=6).contains(&compared.len()));
    // Two are chosen: the plan is theirs.
    let view = server.get(&format!("/api/sites/{site}")).await;
    let chosen: Vec<&Value> = compared.iter().take(2).map(|one| &one["setup_id"]).collect();
    let mut settings = view["settings"].clone();
    settings["protocol"] = json!({"setups": chosen, "order": "there_and_back"});
    let (status, told) = server.save_settings(&site, &settings).await;
    assert_eq!(status, StatusCode::OK, "{told}");
    settings["protocol"]["setups"] = json!([id(999)]);
    assert_eq!(server.save_settings(&site, &settings).await.0, StatusCode::NOT_FOUND, "of no site");

    let opened = server.post(&format!("/api/sites/{site}/sittings"), &json!({"id": id(800)})).await;
    assert_eq!(opened["by_hand"], true, "{opened}");
    let (status, problem) =
        server.send("POST", &format!("/api/sites/{site}/sittings"), Some(json!({"id": id(801)}))).await;
    assert_eq!(status, StatusCode::CONFLICT);
    assert!(problem["detail"].as_str().unwrap().contains("Close it first"), "{problem}");
    let plan = server.get(&path).await;
    let stops = plan["plan"]["stops"].as_array().unwrap();
    assert_eq!(
        stops.iter().map(|stop| &stop["tests"]).collect::<Vec<_>>(),
        [&json!(2), &json!(4), &json!(2)]
    );
    let sitting = &plan["sitting"];
    assert_eq!((&sitting["tests"], &sitting["next_tests"]), (&json!(0), &json!(2)));
    let first = sitting["next_setup_id"].as_str().unwrap().to_owned();
    assert!(chosen.iter().any(|one| **one == first));
    let now = chrono::Utc::now();
    let run = json!({"id": id(810), "measured_at": now, "readings": [],
        "speed_tests": [{"id": id(811), "download_mbps": 44.0, "upload_mbps": 15.0}, {"id": id(812), "download_mbps": 45.0, "upload_mbps": 14.0}]});
    server.post(&format!("/api/setups/{first}/typed-runs"), &run).await;
    let sitting = server.get(&path).await["sitting"].clone();
    assert_eq!((&sitting["tests"], &sitting["next_tests"]), (&json!(2), &json!(4)), "{sitting}");
    assert_ne!(sitting["next_setup_id"], json!(first), "the other one is next");
    let named =
        server.send("PUT", &format!("/api/sittings/{}/name", id(800)), Some(json!({"name": "calm"}))).await;
    assert_eq!(named.1["name"], "calm");
    let closed = server.post(&format!("/api/sittings/{}/close", id(800)), &json!({})).await;
    assert!(closed["closed_at"].is_string());
    assert_eq!(server.get(&path).await["sitting"], Value::Null);
    // The ledger names it.
    let rows = server.get(&format!("/api/sites/{site}/timeline?kind=run&limit=1")).await;
    assert!(rows["rows"][0]["sitting"].as_str().unwrap().starts_with("calm ("), "{rows}");

    let (status, text) = server.bytes("GET", &format!("{path}.ics"), Vec::new(), "text/plain").await;
    let text = String::from_utf8(text).unwrap();
    assert_eq!(status, StatusCode::OK);
    let visits = server.get(&path).await["visits"].as_array().unwrap().len();
    assert_eq!(text.matches("BEGIN:VEVENT").count(), visits);
    for path in [format!("/api/sites/{}/test-plan", id(999)), format!("/api/sites/{}/test-plan.ics", id(999))]
    {
        assert_eq!(server.send("GET", &path, None).await.0, StatusCode::NOT_FOUND);
    }
}

/// Every run, sweep, round, file and event once, page by page; filters keep what they say.
#[tokio::test]
async fn the_time_line_has_everything_and_can_be_filtered() {
    let (server, site) = demo().await;
    let event = json!({"id": id(820), "happened_at": "2026-11-10T19:30:00Z", "kind": "weather", "text": " Rain began "});
    let path = format!("/api/sites/{site}/noted-events");
    let (status, kept) = server.send("POST", &path, Some(event.clone())).await;
    assert_eq!((status, &kept["text"]), (StatusCode::CREATED, &json!("Rain began")));
    assert_eq!(server.send("POST", &path, Some(event)).await.0, StatusCode::OK, "sent again by a phone");
    let empty = json!({"id": id(821), "happened_at": "2026-11-10T19:30:00Z", "text": " "});
    let (status, problem) = server.send("POST", &path, Some(empty)).await;
    assert_eq!(
        (status, &problem["errors"][0]["pointer"]),
        (StatusCode::UNPROCESSABLE_ENTITY, &json!("/text"))
    );

    let line = format!("/api/sites/{site}/timeline");
    let mut all: Vec<Value> = Vec::new();
    let mut before = String::new();
    loop {
        let page = server.get(&format!("{line}?limit=9{before}")).await;
        all.extend(page["rows"].as_array().unwrap().clone());
        let Some(next) = page["before"].as_str() else { break };
        before = format!("&before={next}");
    }
    let bundle = server.get(&format!("/api/sites/{site}/export.json")).await;
    let count = |table: &str| bundle[table].as_array().unwrap().len();
    let kind = |kind: &str| all.iter().filter(|row| row["kind"] == kind).count();
    let points = bundle["runs"]
        .as_array()
        .unwrap()
        .iter()
        .filter(|run| run["context"]["kind"] == "sweep_point")
        .count();
    assert_eq!(kind("run"), count("runs") - points);
    assert_eq!((kind("sweep"), kind("band_round")), (count("sweeps"), count("band_rounds")));
    assert_eq!(kind("event"), count("events"));
    assert!(all.windows(2).all(|two| two[0]["at"].as_str() >= two[1]["at"].as_str()), "the newest first");
    let mut ids: Vec<&str> = all.iter().map(|row| row["id"].as_str().unwrap()).collect();
    ids.sort_unstable();
    ids.dedup();
    assert_eq!(ids.len(), all.len());

    let only = async |query: &str| -> Vec<Value> {
        server.get(&format!("{line}?limit=200&{query}")).await["rows"].as_array().unwrap().clone()
    };
    let wanted = |test: &dyn Fn(&Value) -> bool| all.iter().filter(|row| test(row)).count();
    let has = |row: &Value, band: &str| row["bands"].as_array().unwrap().contains(&json!(band));
    let n78 = only("band=n78").await;
    assert!(!n78.is_empty() && n78.iter().all(|row| has(row, "n78")));
    assert_eq!(n78.len(), wanted(&|row| has(row, "n78")));
    let typed = only("source=typed").await;
    assert_eq!(typed.len(), wanted(&|row| row["kind"] == "run" && row["typed"] == true));
    let doubtful = only("doubtful=true").await;
    assert!(!doubtful.is_empty() && doubtful.len() == wanted(&|row| row["doubted"] != 0));
    let setup = all.iter().find_map(|row| row["setup_id"].as_str()).unwrap();
    let of_setup = only(&format!("setup={setup}")).await;
    assert!(!of_setup.is_empty() && of_setup.iter().all(|row| row["setup_id"] == setup));
    assert_eq!(only("kind=event").await.len(), count("events"));
    let parts = ["morning", "midday", "evening", "night"];
    let mut sum = 0;
    for part in parts {
        sum += only(&format!("part={part}")).await.len();
    }
    assert_eq!(sum, all.len());
    // What was changed since the run before is named where it is more than one thing, too.
    assert!(
        all.iter().any(|row| row["changed"].as_array().unwrap().len() > 1 && row["changed_said"].is_string())
    );

    let out = server.post(&format!("/api/noted-events/{}/archive", id(820)), &json!({})).await;
    assert!(out["archived_at"].is_string());
    let back = server.post(&format!("/api/noted-events/{}/restore", id(820)), &json!({})).await;
    assert_eq!(back["archived_at"], Value::Null);
    assert_eq!(
        server.send("GET", &format!("/api/sites/{}/timeline", id(999)), None).await.0,
        StatusCode::NOT_FOUND
    );
}

/// The program tests by itself when it is due, on what was measured last, and says what holds it up.
#[tokio::test]
async fn repeats_run_by_themselves_and_say_what_they_wait_for() {
    use chrono::{DateTime, Duration, Utc};
    use std::sync::{Arc, Mutex};
    let now: Arc<Mutex<DateTime<Utc>>> = Arc::new(Mutex::new(Utc::now()));
    let clock = {
        let now = now.clone();
        open_beacon_gateway::Clock::of(move || *now.lock().unwrap())
    };
    let directory = tempfile::tempdir().unwrap();
    let outside = open_beacon_api::Outside { clock, ..open_beacon_api::Outside::default() };
    let state = AppState::within(Store::open(directory.path()).unwrap(), outside).unwrap();
    let server = Server { router: open_beacon_api::router(state.clone()), state, _directory: directory };
    let (site, _, setup) = server.site().await;
    let look = async || open_beacon_api::repeats::look(&server.state).await;
    let pass = |hours: i64| *now.lock().unwrap() += Duration::hours(hours);
    let runs = async || server.get(&format!("/api/setups/{setup}/runs")).await.as_array().unwrap().clone();
    let said = async || server.get(&format!("/api/sites/{site}/test-plan")).await["repeats_said"].clone();
    let set = async |repeats: Value, url: Option<&str>| {
        let view = server.get(&format!("/api/sites/{site}")).await;
        let mut settings = view["settings"].clone();
        settings["protocol"]["repeats"] = repeats;
        settings["speed_test"] = url.map_or(Value::Null, |url| {
            json!({"download_url": format!("{url}/down"), "connections": 1, "warm_up_s": 0.0, "phase_s": 1.0})
        });
        server.save_settings(&site, &settings).await
    };
    let on = json!({"on": true, "every_h": 5.0, "tests": 1, "monthly_mb": 1_000_000.0});
    look().await;
    assert_eq!(said().await, Value::Null, "it is off");
    set(on.clone(), None).await;
    look().await;
    assert_eq!(said().await, "Waiting: no speed-test address is set.");
    let listener = tokio::net::TcpListener::bind("127.0.0.1:0").await.unwrap();
    let url = format!("http://{}", listener.local_addr().unwrap());
    tokio::spawn(async move {
        axum::serve(listener, open_beacon_speedtest::router(Arc::new(open_beacon_speedtest::Unshaped))).await
    });
    set(on.clone(), Some(&url)).await;
    pass(1);
    look().await;
    assert!(said().await.as_str().unwrap().starts_with("Waiting: nothing was measured yet"));
    // Something is measured by hand; five hours later the first repeat comes, not sooner.
    let typed = json!({"id": id(830), "measured_at": *now.lock().unwrap(), "readings": [],
        "speed_tests": [{"id": id(831), "download_mbps": 44.0}]});
    server.post(&format!("/api/setups/{setup}/typed-runs"), &typed).await;
    pass(4);
    look().await;
    assert_eq!(runs().await.len(), 1);
    assert!(said().await.as_str().unwrap().starts_with("Next at "));
    pass(2);
    let opened = server.post(&format!("/api/sites/{site}/sittings"), &json!({"id": id(840)})).await;
    look().await;
    assert_eq!(said().await, "Waiting: a sitting is open.");
    server.post(&format!("/api/sittings/{}/close", opened["id"].as_str().unwrap()), &json!({})).await;
    look().await;
    assert_eq!(runs().await.len(), 1, "tried again a quarter of an hour later only");
    pass(1);
    look().await;
    let (mut tries, path) = (0, format!("/api/sites/{site}/job"));
    while server.get(&path).await["running"] == true && tries < 600 {
        tokio::time::sleep(std::time::Duration::from_millis(100)).await;
        tries += 1;
    }
    let all = runs().await;
    assert_eq!(all.len(), 2, "{all:?}");
    assert_eq!((&all[0]["tests"], &all[0]["run"]["completion"]), (&json!(1), &json!("complete")), "{all:?}");
    assert_eq!(all[0]["run"]["conditions"]["notes"], "Run by the program itself.");
    look().await;
    assert_eq!(runs().await.len(), 2, "not again before its time");
    // The month's data is used up by what that one moved.
    set(json!({"on": true, "every_h": 1.0, "tests": 5, "monthly_mb": 50.0}), Some(&url)).await;
    pass(3);
    look().await;
    assert!(said().await.as_str().unwrap().starts_with("Waiting for next month"), "{}", said().await);
    assert_eq!(runs().await.len(), 2);
    let wrong = set(json!({"on": true, "every_h": 0.1, "tests": 1, "monthly_mb": 100.0}), Some(&url)).await;
    assert_eq!(wrong.1["errors"][0]["pointer"], "/protocol/repeats/every_h");
}

/// Figures and signals over time are those of the record; a setup, a band and what was left out are minded.
#[tokio::test]
async fn a_figure_over_time_has_every_test_of_the_record() {
    let (server, site) = demo().await;
    let path = format!("/api/sites/{site}/over-time");
    let bundle = server.get(&format!("/api/sites/{site}/export.json")).await;
    let of = async |query: &str| server.get(&format!("{path}?{query}")).await;
    let all = of("quantity=download").await;
    let tests = bundle["speed_tests"].as_array().unwrap();
    let points = |view: &Value| view["points"].as_array().unwrap().clone();
    let point_run = |run: &Value| {
        bundle["runs"].as_array().unwrap().iter().find(|one| one["id"] == *run).unwrap().clone()
    };
    let counted = |test: &&Value| {
        test["completion"] == "complete"
            && !test["download_mbps"].is_null()
            && point_run(&test["run_id"])["context"]["kind"] != "sweep_point"
    };
    let wanted: Vec<&Value> = tests.iter().filter(counted).collect();
    assert_eq!(all["of"].as_u64().unwrap() as usize, wanted.len());
    let sum = |values: Vec<f64>| values.iter().sum::<f64>();
    let shown = sum(points(&all).iter().map(|point| point["value"].as_f64().unwrap()).collect());
    let kept = sum(wanted.iter().map(|test| test["download_mbps"].as_f64().unwrap()).collect());
    assert!((shown - kept).abs() < 1e-6, "few enough to be shown all");
    assert_eq!(all["events"].as_array().unwrap().len(), bundle["events"].as_array().unwrap().len());
    assert!(points(&all).windows(2).all(|two| two[0]["at"].as_str() <= two[1]["at"].as_str()));

    let setup = points(&all)[0]["setup_id"].as_str().unwrap().to_owned();
    let alone = points(&of(&format!("quantity=upload&setup={setup}")).await);
    assert!(!alone.is_empty() && alone.iter().all(|point| point["setup_id"] == json!(setup)));
    let signal = of("quantity=rsrp&band=n78").await;
    assert!(signal["bands"].as_array().unwrap().contains(&json!("n78")), "{}", signal["bands"]);
    assert!(points(&signal).iter().all(|point| (-140.0..=-40.0).contains(&point["value"].as_f64().unwrap())));
    // The run that is left out is gone from it.
    let run = points(&all)[0]["run_id"].as_str().unwrap().to_owned();
    server.send("POST", &format!("/api/runs/{run}/archive"), None).await;
    assert!(points(&of("quantity=download").await).iter().all(|point| point["run_id"] != json!(run)));
}

/// A slip of the pen is corrected, and what was written first stays to be seen; figures are those of the corrected run.
#[tokio::test]
async fn what_was_typed_in_is_corrected_with_its_reason() {
    let server = server();
    let (_, _, setup) = server.site().await;
    let carrier = |rsrp: f64| json!({"technology": "lte", "role": "primary", "band": 3, "rsrp_dbm": rsrp, "sinr_db": 12.0});
    let run = |rsrp: f64, down: f64| {
        json!({"id": id(850), "measured_at": "2026-11-10T12:00:00Z",
            "readings": [{"id": id(851), "mode": "lte", "activity": "unknown", "carriers": [carrier(rsrp)]}],
            "speed_tests": [{"id": id(852), "download_mbps": down, "upload_mbps": 5.0}]})
    };
    server.post(&format!("/api/setups/{setup}/typed-runs"), &run(-49.0, 440.0)).await;
    let path = format!("/api/runs/{}/typed", id(850));
    let correction = |n: u128, why: &str, seen: usize, rsrp: f64| json!({"id": id(n), "why": why, "by": "Kari", "seen": seen, "run": run(rsrp, 44.0)});
    let put = async |body: Value| server.send("PUT", &path, Some(body)).await;
    let (status, problem) = put(correction(860, " ", 0, -94.0)).await;
    assert_eq!(
        (status, &problem["errors"][0]["pointer"]),
        (StatusCode::UNPROCESSABLE_ENTITY, &json!("/why"))
    );
    let (status, problem) = put(correction(861, "typo", 0, 94.0)).await;
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY, "{problem}");
    let (status, told) = put(correction(862, "digits swapped", 0, -94.0)).await;
    assert_eq!(status, StatusCode::OK, "{told}");
    let view = server.get(&format!("/api/runs/{}", id(850))).await;
    assert_eq!(view["samples"][0]["carriers"][0]["rsrp_dbm"], -94.0);
    assert_eq!(view["speed_tests"][0]["download_mbps"], 44.0);
    let kept = &view["amendments"][0];
    assert_eq!(
        (&kept["amendment"]["why"], &kept["amendment"]["by"]),
        (&json!("digits swapped"), &json!("Kari"))
    );
    let said = kept["before_said"].to_string().replace('\u{202f}', " ");
    assert!(said.contains("B3 −49 dBm") && said.contains("440 Mbit/s down, 5.00 Mbit/s up"), "{said}");
    let log = server.get(&format!("/api/setups/{setup}/log")).await;
    assert!(
        (log["figures"][0]["geometric_mean"].as_f64().unwrap() - 44.0).abs() < 1e-9,
        "{}",
        log["figures"][0]
    );
    let (status, problem) = put(correction(863, "typo", 0, -95.0)).await;
    assert_eq!(status, StatusCode::CONFLICT);
    assert!(problem["detail"].as_str().unwrap().contains("corrected meanwhile"), "{problem}");
}
