//! The Kit stage and the catalogue over HTTP.

use crate::{demo, id, server};
use axum::http::StatusCode;
use serde_json::{Value, json};

fn part<'a>(catalogue: &'a Value, name: &str) -> &'a Value {
    let entries = catalogue.as_array().unwrap();
    let found = entries.iter().find(|entry| entry["part"]["name"].as_str().unwrap().starts_with(name));
    &found.unwrap_or_else(|| panic!("no {name}"))["part"]
}

#[tokio::test]
async fn a_faulty_kit_is_told_its_fix_and_the_fix_mends_it() {
    let (server, site) = demo().await;
    let kits = server.get(&format!("/api/sites/{site}/kits")).await;
    let thin =
        kits["kits"].as_array().unwrap().iter().find(|one| one["kit"]["name"] == "Wide panel, thin cable");
    let thin = thin.unwrap().clone();
    assert_eq!(thin["judged"]["fixes"][0]["place"], 0);
    let mut spec = thin["kit"]["spec"].clone();
    let mut chain = thin["judged"]["fixes"][0]["parts"].as_array().unwrap().clone();
    chain.extend(spec["chain"].as_array().unwrap().clone());
    spec["chain"] = json!(chain);
    let (status, mended) =
        server.send("POST", &format!("/api/sites/{site}/kits/try"), Some(spec.clone())).await;
    assert_eq!((status, mended["fixes"].as_array().unwrap().len()), (StatusCode::OK, 0));
    // Longer cable: more loss, a lower price of signal.
    let net = |judged: &Value| {
        judged["assessment"]["outlook"]["bands"][0]["budget"]["net_gain_dbi"].as_f64().unwrap()
    };
    spec["chain"][1]["length_m"] = json!(30.0);
    let (_, longer) = server.send("POST", &format!("/api/sites/{site}/kits/try"), Some(spec.clone())).await;
    assert!(net(&longer) < net(&mended) - 3.0);
    spec["chain"][1]["length_m"] = json!(900.0);
    let (status, problem) = server.send("POST", &format!("/api/sites/{site}/kits/try"), Some(spec)).await;
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY);
    assert_eq!(problem["errors"][0]["pointer"], "/spec/chain/1/length_m");
}

#[tokio::test]
async fn port_tests_are_queued_once_as_setups_at_the_position() {
    let (server, site) = demo().await;
    let kits = server.get(&format!("/api/sites/{site}/kits")).await;
    let kit = kits["kits"][0]["kit"]["id"].as_str().unwrap().to_owned();
    let asked = json!({"setup_ids": [id(61), id(62), id(63)]});
    let path = format!("/api/kits/{kit}/queue-ports");
    let (status, made) = server.send("POST", &path, Some(asked.clone())).await;
    assert_eq!((status, made.as_array().unwrap().len()), (StatusCode::CREATED, 3));
    assert_eq!(made[0]["azimuth_deg"], 143.0);
    assert_ne!(made[0]["ports"], made[1]["ports"]);
    let (_, again) = server.send("POST", &path, Some(asked)).await;
    assert_eq!(again, made, "a request sent twice is harmless");
    let view = server.get(&format!("/api/sites/{site}")).await;
    let gable =
        view["positions"].as_array().unwrap().iter().find(|one| one["position"]["mount"] == "gable").unwrap();
    let waiting = gable["setups"].as_array().unwrap().iter().filter(|one| one["runs"] == 0).count();
    assert_eq!(waiting, 3);
    // Without a position there is nowhere to queue them.
    let mut body = kits["kits"][0]["kit"].clone();
    body["spec"]["position_id"] = Value::Null;
    server.send("PUT", &format!("/api/kits/{kit}"), Some(body)).await;
    let (status, problem) = server.send("POST", &path, Some(json!({"setup_ids": [id(64)]}))).await;
    assert_eq!(status, StatusCode::CONFLICT, "{problem}");
}

#[tokio::test]
async fn prices_of_ones_own_change_what_is_suggested() {
    let (server, site) = demo().await;
    let ask = async |limit: Value| {
        let (status, found) = server
            .send("POST", &format!("/api/sites/{site}/kits/suggest"), Some(json!({"price_limit": limit})))
            .await;
        assert_eq!(status, StatusCode::OK, "{found}");
        found
    };
    let before = ask(Value::Null).await;
    assert!(before["losers"].as_array().unwrap().len() > 20);
    let best = before["best"]["candidate"]["price"].as_f64().unwrap();
    let limited = ask(json!(best - 1.0)).await;
    assert!(limited["best"]["candidate"]["price"].as_f64().unwrap() < best);
    // The winning gateway becomes dear: another wins, and the loser's reason is its price.
    let catalogue = server.get("/api/catalogue").await;
    let mut gateway = part(&catalogue, before["cheapest"]["gateway"].as_str().unwrap()).clone();
    gateway["price"] = json!(5000.0);
    let path = format!("/api/catalogue/{}", gateway["id"].as_str().unwrap());
    let (status, _) = server.send("PUT", &path, Some(gateway.clone())).await;
    assert_eq!(status, StatusCode::OK);
    let after = ask(Value::Null).await;
    assert_ne!(after["cheapest"]["gateway"], before["cheapest"]["gateway"]);
    // As it came again.
    server.send("DELETE", &path, None).await;
    assert_eq!(ask(Value::Null).await["cheapest"]["candidate"], before["cheapest"]["candidate"]);
    let (status, problem) = server
        .send("POST", &format!("/api/sites/{site}/kits/suggest"), Some(json!({"price_limit": -3})))
        .await;
    assert_eq!(
        (status, &problem["errors"][0]["pointer"]),
        (StatusCode::UNPROCESSABLE_ENTITY, &json!("/price_limit"))
    );
}

#[tokio::test]
async fn a_catalogue_goes_out_and_in_all_or_nothing() {
    let (server, _) = demo().await;
    let mut file = server.get("/api/catalogue/export.json").await;
    let count = file["parts"].as_array().unwrap().len();
    let (_, same) = server.send("POST", "/api/catalogue/import?preview=true", Some(file.clone())).await;
    assert_eq!(same, json!({"new": 0, "changed": 0, "same": count}));
    let mut own = file["parts"][0].clone();
    own["id"] = json!(id(71));
    own["name"] = json!("Mine");
    file["parts"].as_array_mut().unwrap().push(own);
    file["parts"][1]["price"] = json!(3.0);
    let (_, report) = server.send("POST", "/api/catalogue/import", Some(file.clone())).await;
    assert_eq!(report, json!({"new": 1, "changed": 1, "same": count - 1}));
    let mine = server.get("/api/catalogue/export.json?own=true").await;
    assert_eq!(mine["parts"].as_array().unwrap().len(), 2);
    // One bad part: none is taken, and it is named.
    file["parts"][2]["name"] = json!("");
    file["parts"][3]["price"] = json!(1.0);
    let (status, problem) = server.send("POST", "/api/catalogue/import", Some(file)).await;
    assert_eq!(
        (status, &problem["errors"][0]["pointer"]),
        (StatusCode::UNPROCESSABLE_ENTITY, &json!("/parts/2/name"))
    );
    assert_eq!(server.get("/api/catalogue/export.json?own=true").await, mine);
    let (status, _) = server
        .send("POST", "/api/catalogue/import", Some(json!({"format": "x", "version": 1, "parts": []})))
        .await;
    assert_eq!(status, StatusCode::BAD_REQUEST);
    // The user's own part is archived, never thrown away.
    let (status, _) = server.send("DELETE", &format!("/api/catalogue/{}", id(71)), None).await;
    assert_eq!(status, StatusCode::CONFLICT);
    server.send("POST", &format!("/api/catalogue/{}/archive", id(71)), None).await;
    let catalogue = server.get("/api/catalogue").await;
    assert!(part(&catalogue, "Mine")["archived_at"].is_string());
}

#[tokio::test]
async fn the_job_card_has_what_the_day_needs() {
    let (server, site) = demo().await;
    let kits = server.get(&format!("/api/sites/{site}/kits")).await;
    let card =
        server.get(&format!("/api/kits/{}/job-card", kits["kits"][0]["kit"]["id"].as_str().unwrap())).await;
    assert_eq!(
        (&card["site_name"], &card["position_name"]),
        (&json!("Hulderbekk croft"), &json!("East gable"))
    );
    assert_eq!(card["judged"]["assessment"]["parts"][1]["pieces"], 2);
    assert!(
        card["cautions"].as_array().unwrap().iter().any(|one| one["caution"]["caution"] == "overhead_line")
    );
    assert_eq!(card["steps"].as_array().unwrap().len(), card["plan"]["steps"].as_array().unwrap().len());
    assert_eq!(card["port_bands"][2]["bands"], json!(["n78", "B3"]));
}

#[tokio::test]
async fn kit_settings_are_checked_and_change_the_need() {
    let (server, site) = demo().await;
    let mut settings = server.get(&format!("/api/sites/{site}")).await["settings"].clone();
    settings["kit"]["uses"][2]["count"] = json!(2);
    server.save_settings(&site, &settings).await;
    let need = server.get(&format!("/api/sites/{site}/kits")).await["need"].clone();
    // By hand: (2·3 + 2·6 + 2·20 + 2·4) · 1.25.
    assert_eq!(need["down_mbps"], 82.5);
    settings["kit"]["currency"] = json!("crowns");
    settings["kit"]["expected"] = json!([{"technology": "lte", "band": 999, "bandwidth_mhz": 10}]);
    settings["kit"]["wind_m_s"] = json!(900);
    let (status, problem) = server.save_settings(&site, &settings).await;
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY);
    let pointers: Vec<&str> =
        problem["errors"].as_array().unwrap().iter().map(|one| one["pointer"].as_str().unwrap()).collect();
    assert_eq!(pointers, ["/kit/currency", "/kit/wind_m_s", "/kit/expected/0"]);
}

#[tokio::test]
async fn a_path_estimate_stands_in_where_nothing_was_heard() {
    let server = server();
    let site = id(1);
    server
        .send(
            "POST",
            "/api/sites",
            Some(json!({"id": site, "name": "North farm", "time_zone": "Europe/Oslo"})),
        )
        .await;
    let empty = server.get(&format!("/api/sites/{site}/kits")).await;
    assert_eq!(empty["bands"], json!([]));
    let settings = json!({"known_mast": {"name": "", "bearing_deg": 10, "distance_m": 3000},
        "kit": {"expected": [{"technology": "lte", "band": 20, "bandwidth_mhz": 10}]}});
    server.save_settings(&site, &settings).await;
    let view = server.get(&format!("/api/sites/{site}/kits")).await;
    assert_eq!(
        view["bands"][0]["origin"],
        json!({"from": "path", "distance_m": 3000.0, "beyond_model": false})
    );
    let catalogue = server.get("/api/catalogue").await;
    let unit = json!({"gateway": part(&catalogue, "Utvei 4")["id"]});
    let (_, judged) = server.send("POST", &format!("/api/sites/{site}/kits/try"), Some(unit)).await;
    let rsrp = &judged["assessment"]["outlook"]["bands"][0]["radio"]["rsrp_dbm"];
    assert!(rsrp["high"].as_f64().unwrap() - rsrp["low"].as_f64().unwrap() > 15.0, "a wide range: {rsrp}");
}
