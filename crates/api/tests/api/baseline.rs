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
async fn calculations_answer_on_their_own() {
    let server = server();
    let bands = server.get("/api/calc/bands?technology=nr&channel=636666").await;
    let names: Vec<&Value> = bands.as_array().unwrap().iter().map(|band| &band["name"]).collect();
    assert_eq!(names, ["n77", "n78"]);
    let mask = server.post("/api/calc/lock-mask", &json!([3, 20])).await;
    assert_eq!(mask["low_hex"], "80004");
    let split =
        server.post("/api/calc/cell-identity", &json!({"technology": "lte", "whole": 27439874})).await;
    assert_eq!((split["node"].as_u64(), split["local"].as_u64()), (Some(107_187), Some(2)));
    let code = server.post("/api/calc/code", &json!({"kind": "rsrp", "code": 44})).await;
    assert_eq!(code["shown"], -96.5);
    let picture = json!({"technology": "lte", "sinr_db": 5.0, "count": 50, "seed": 1});
    let picture = server.post("/api/calc/constellation", &picture).await;
    assert_eq!(picture["symbols"].as_array().unwrap().len(), 50);
    let wall = server.post("/api/calc/entry-loss", &json!({"mount": "indoor", "frequency_mhz": 800.0})).await;
    assert!(wall["low"].as_f64() < wall["high"].as_f64());
    let carrier = json!({"technology": "lte", "role": "primary", "band": 3, "bandwidth_mhz": 20.0, "rsrp_dbm": -90.0, "sinr_db": 10.0});
    let asked = json!({"mode": "lte", "carriers": [carrier]});
    let possible = server.post("/api/calc/capacity", &asked).await;
    let explained = server.post("/api/calc/explain", &asked).await;
    assert_eq!(explained[0]["explained"]["rates"]["down_mbps"], possible["down_mbps"]);
}
