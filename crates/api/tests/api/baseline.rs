use crate::{demo, server};
use serde_json::{Value, json};

#[tokio::test]
async fn the_demo_site_is_judged_with_its_numbers() {
    let (server, site) = demo().await;
    let view = server.get(&format!("/api/sites/{site}/baseline")).await;
    assert!(view["title"].as_str().unwrap().contains("outdoor antenna"), "{}", view["title"]);
    let spots = view["baseline"]["spots"].as_array().unwrap();
    assert_eq!(spots.len(), 3);
    assert_eq!(view["baseline"]["network"], "Huldermobil");
    assert_eq!(view["baseline"]["verdict"]["outlooks"].as_array().unwrap().len(), 3);
    for spot in spots {
        for carrier in spot["carriers"].as_array().unwrap() {
            let down = &carrier["rates"]["down_mbps"];
            assert!(down["low"].as_f64() <= down["likely"].as_f64());
        }
    }
    let other = server.get(&format!("/api/sites/{site}/baseline?network=Skogsignal")).await;
    assert_eq!(other["baseline"]["spots"].as_array().unwrap().len(), 1);
    assert_eq!(other["baseline"]["spots"][0]["instrument"], "modem");
}

#[tokio::test]
async fn a_pasted_page_is_read_and_nothing_is_kept() {
    let server = server();
    let read = server.post("/api/calc/paste", &json!({"text": "LTE\nRSRP: -97 dBm\nSINR: 60"})).await;
    assert_eq!(read["carriers"][0]["rsrp_dbm"], -97.0);
    assert_eq!(read["carriers"][0]["flags"][0]["metric"], "sinr");
    let empty = server.post("/api/calc/paste", &json!({"text": " "})).await;
    assert_eq!(empty["errors"][0]["pointer"], "/text");
}

#[tokio::test]
async fn what_contradicts_itself_is_kept_and_flagged() {
    let (server, site) = demo().await;
    let setup =
        server.get(&format!("/api/sites/{site}")).await["positions"][0]["setups"][0]["setup"]["id"].clone();
    let id = |n: u128| uuid::Uuid::from_u128(n).to_string();
    let carrier = json!({"technology": "lte", "role": "primary", "band": 7, "channel": 1300, "rsrp_dbm": -87.0,
        "rsrq_db": -17.0, "sinr_db": 5.1});
    let body = json!({"id": id(1), "measured_at": "2026-11-20T10:00:00Z", "conditions": {"network": "Tredje"},
        "readings": [{"id": id(2), "mode": "lte", "activity": "unknown", "carriers": [carrier]}]});
    server.post(&format!("/api/setups/{}/typed-runs", setup.as_str().unwrap()), &body).await;
    let run = server.get(&format!("/api/runs/{}", id(1))).await;
    let kept = &run["samples"][0]["carriers"][0];
    assert_eq!(kept["sinr_db"], 5.1);
    let flags: Vec<&Value> = kept["flags"].as_array().unwrap().iter().map(|flag| &flag["kind"]).collect();
    assert_eq!(flags, ["contradicted", "contradicted"]);
    let view = server.get(&format!("/api/sites/{site}/baseline?network=Tredje")).await;
    let said = view["explained"][0][0].to_string();
    assert!(said.contains("Band 7 and channel 1300 disagree"), "{said}");
}

#[tokio::test]
async fn an_empty_site_is_told_where_to_begin() {
    let server = server();
    let (site, _, _) = server.site().await;
    let view = server.get(&format!("/api/sites/{site}/baseline")).await;
    assert_eq!(view["title"], "Start by reading the gateway where it stands today.");
    assert_eq!(view["next"]["kind"], "add_setup", "the only setup is on an external antenna");
    assert_eq!(view["baseline"]["verdict"]["answer"], "measure");
    assert!(view["reasons"].as_array().unwrap().is_empty());
}

#[tokio::test]
async fn a_spot_is_kept_with_its_position_and_checked() {
    let server = server();
    let (site, _, _) = server.site().await;
    let id = uuid::Uuid::from_u128(50).to_string();
    let spot =
        json!({"floor": "Upstairs", "room": "landing", "facing_deg": 145.0, "window": "the valley window"});
    let body = json!({"id": id, "name": "Landing", "mount": "window", "spot": spot});
    server.post(&format!("/api/sites/{site}/positions"), &body).await;
    let view = server.get(&format!("/api/sites/{site}")).await;
    assert_eq!(view["positions"][1]["position"]["spot"], spot);
    let wrong = json!({"name": "Landing", "mount": "window", "spot": {"facing_deg": 400.0}});
    let (status, problem) = server.send("PUT", &format!("/api/positions/{id}"), Some(wrong)).await;
    assert_eq!(status.as_u16(), 422);
    assert_eq!(problem["errors"][0]["pointer"], "/spot/facing_deg");
}

#[tokio::test]
async fn assumptions_are_checked_and_change_the_outlook() {
    let (server, site) = demo().await;
    let path = format!("/api/sites/{site}/baseline");
    let before =
        server.get(&path).await["baseline"]["verdict"]["outlooks"][1]["rsrp_change_db"]["likely"].clone();
    let mut settings = server.get(&format!("/api/sites/{site}")).await["settings"].clone();
    settings["outdoor"]["feed_loss_db"] = json!(8.0);
    let (status, _) = server.save_settings(&site, &settings).await;
    assert!(status.is_success());
    let after =
        server.get(&path).await["baseline"]["verdict"]["outlooks"][1]["rsrp_change_db"]["likely"].clone();
    assert!((before.as_f64().unwrap() - after.as_f64().unwrap() - 5.0).abs() < 1e-9);
    settings["outdoor"]["feed_loss_db"] = json!(80.0);
    settings["link"]["nr_pattern"] = json!("DDX");
    settings["link"]["layers"] = json!(9);
    settings["known_mast"] = json!({"bearing_deg": 400.0});
    let (status, problem) = server.save_settings(&site, &settings).await;
    assert_eq!(status.as_u16(), 422);
    let pointers: Vec<&str> = problem["errors"]
        .as_array()
        .unwrap()
        .iter()
        .map(|error| error["pointer"].as_str().unwrap())
        .collect();
    for wanted in ["/outdoor/feed_loss_db", "/link/nr_pattern", "/link/layers", "/known_mast/bearing_deg"] {
        assert!(pointers.contains(&wanted), "{wanted} in {pointers:?}");
    }
}

#[tokio::test]
async fn another_operators_run_stays_out_of_a_setups_own_figures() {
    let (server, site) = demo().await;
    let kitchen =
        server.get(&format!("/api/sites/{site}")).await["positions"][0]["setups"][0]["setup"]["id"].clone();
    let log = server.get(&format!("/api/setups/{}/log", kitchen.as_str().unwrap())).await;
    let pcis: Vec<u64> = log["radio"]["carriers"]
        .as_array()
        .unwrap()
        .iter()
        .filter_map(|carrier| carrier["cell"]["pci"].as_u64())
        .collect();
    assert!(!pcis.contains(&412) && !pcis.contains(&414), "{pcis:?}");
    let runs = log["runs"].as_array().unwrap();
    assert!(runs.iter().any(|row| row["run"]["conditions"]["network"] == "Skogsignal"), "it is listed");
}

#[tokio::test]
async fn calculations_refuse_what_cannot_be_and_say_what_would_work() {
    let server = server();
    let refused = async |path: &str, body: Value, words: &str| {
        let (status, problem) = server.send("POST", path, Some(body)).await;
        assert_eq!(status.as_u16(), 422, "{path}: {problem}");
        assert!(problem["errors"][0]["detail"].as_str().unwrap().contains(words), "{problem}");
    };
    let picture = |count: u32, sinr_db: f64| json!({"technology": "lte", "sinr_db": sinr_db, "count": count, "seed": 1});
    let drawn = server.post("/api/calc/constellation", &picture(50, 5.0)).await;
    assert_eq!(drawn["symbols"].as_array().unwrap().len(), 50);
    refused("/api/calc/constellation", picture(50, 90.0), "60").await;
    let many = picture(9999, 5.0);
    refused("/api/calc/constellation", many, "2000").await;
    let site = json!({"download_url": "ftp://127.0.0.1/x"});
    refused(&format!("/api/sites/{}/address-check", uuid::Uuid::from_u128(1)), site, "http://").await;
}

#[tokio::test]
async fn an_address_check_of_a_site_that_is_not_there_is_not_made() {
    let server = server();
    let body = json!({"download_url": "http://127.0.0.1:9/x"});
    let path = format!("/api/sites/{}/address-check", uuid::Uuid::from_u128(1));
    assert_eq!(server.send("POST", &path, Some(body.clone())).await.0.as_u16(), 404);
    let (site, _, _) = server.site().await;
    let view = server.post(&format!("/api/sites/{site}/address-check"), &body).await;
    assert_eq!(view["said"][0]["finding"]["kind"], "address_silent");
}

/// What was predicted of a setup rests on what was measured before it, and nothing that is measured later changes it.
#[tokio::test]
async fn a_prediction_knows_nothing_that_is_newer() {
    let (server, site) = demo().await;
    let path = format!("/api/sites/{site}/track-record");
    let before = server.get(&path).await;
    let setups = before["setups"].as_array().unwrap();
    assert!(setups.len() >= 6, "{before}");
    let began: Vec<&str> = setups.iter().map(|one| one["measured_from"].as_str().unwrap()).collect();
    assert!(began.is_sorted(), "{began:?}");
    // The first rests on masts alone, and has the widest ranges.
    assert_eq!(setups[0]["rests_on"], "4 masts");
    let width = |one: &Value| {
        let figures = one["figures"].as_array().unwrap();
        let rsrp = figures.iter().filter(|figure| figure["quantity"] == "rsrp");
        let widths: Vec<f64> = rsrp
            .map(|one| one["foretold"]["high"].as_f64().unwrap() - one["foretold"]["low"].as_f64().unwrap())
            .collect();
        widths.iter().sum::<f64>() / widths.len() as f64
    };
    // The fourth looks at a mast of which nothing was heard yet.
    assert!(width(&setups[0]) > 1.5 * width(&setups[4]), "readings narrow what is foretold");
    let held =
        before["records"].as_array().unwrap().iter().map(|one| one["held"].as_u64().unwrap()).sum::<u64>();
    assert!(before["title"].as_str().unwrap().contains(&format!("{held} held")), "{}", before["title"]);
    // Another visit to the sill, far weaker than ever: what came changes, what was predicted of any setup before does not.
    let sill = setups[0]["setup_id"].as_str().unwrap();
    let body = json!({"id": crate::id(900), "measured_at": "2026-11-20T09:00:00Z",
        "speed_tests": [{"id": crate::id(901), "download_mbps": 1.5, "upload_mbps": 0.5}]});
    server.post(&format!("/api/setups/{sill}/typed-runs"), &body).await;
    let after = server.get(&path).await;
    let foretold = |view: &Value| -> Vec<Value> {
        let of = |one: &Value| {
            let figures = one["figures"].as_array().unwrap().iter();
            let rates =
                figures.filter(|figure| figure["quantity"] == "download" || figure["quantity"] == "upload");
            json!([one["setup_id"], rates.map(|one| one["foretold"].clone()).collect::<Vec<_>>()])
        };
        view["setups"].as_array().unwrap().iter().map(of).collect()
    };
    assert_eq!(foretold(&after), foretold(&before));
    assert_ne!(after["setups"][0]["figures"], before["setups"][0]["figures"], "what was measured is newer");
    assert!(
        setups.iter().all(|one| one["foretold_at"].is_null()),
        "nobody was there to foretell what is brought in"
    );
    // A setup of one's own: what is foretold is kept before it is measured, and stays, whatever becomes known.
    let made = json!({"id": crate::id(910), "antenna": "external", "azimuth_deg": 120.0});
    let position = server.get(&format!("/api/sites/{site}")).await["positions"][0]["position"]["id"].clone();
    server.post(&format!("/api/positions/{}/setups", position.as_str().unwrap()), &made).await;
    let measure = async |number: u128, rsrp_dbm: f64| {
        let carriers = json!([{"technology": "lte", "role": "primary", "band": 3, "channel": 1300,
            "bandwidth_mhz": 20.0, "rsrp_dbm": rsrp_dbm, "sinr_db": 4.0}]);
        let body = json!({"id": crate::id(number), "measured_at": "2026-11-21T09:00:00Z",
            "readings": [{"id": crate::id(number + 1), "mode": "lte", "activity": "unknown", "carriers": carriers}]});
        let typed = format!("/api/setups/{}/typed-runs", crate::id(910));
        let (status, answer) = server.send("POST", &typed, Some(body)).await;
        assert!(status.is_success(), "{answer}");
        let view = server.get(&path).await;
        let own = view["setups"].as_array().unwrap().iter().find(|one| one["setup_id"] == crate::id(910));
        own.unwrap_or_else(|| panic!("{view}")).clone()
    };
    let first = measure(920, -104.0).await;
    assert!(first["foretold_at"].is_string(), "{first}");
    let second = measure(930, -90.0).await;
    let said = |one: &Value| {
        [one["foretold_at"].clone(), one["figures"][0]["foretold"].clone(), one["rests_on"].clone()]
    };
    assert_eq!(said(&second), said(&first));
    assert_ne!(second["figures"][0]["measured"], first["figures"][0]["measured"]);
    let exported = server.get(&format!("/api/sites/{site}/export.json")).await;
    assert_eq!(exported["predictions"][0]["setup_id"], crate::id(910));
    let after = server.get(&path).await;
    // One house is all houses here.
    let all = server.get("/api/track-record").await;
    assert_eq!((&all["title"], &all["records"]), (&after["title"], &after["records"]));
}
