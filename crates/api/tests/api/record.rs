//! The record of a site: what is missing of it, what is typed into it by the line, what tests went over.

use super::*;

/// What comes next is said for every setup in use, and goes on as tests come in.
#[tokio::test]
async fn what_is_missing_is_listed_and_grows_less() {
    let (server, site) = demo().await;
    let path = format!("/api/sites/{site}/worklist");
    let list = server.get(&path).await;
    let rows = list["rows"].as_array().unwrap();
    assert_eq!(rows.len(), 11);
    let yard = rows.iter().find(|row| row["label"] == "Yard table").unwrap();
    assert_eq!((&yard["tests"], &yard["doubted"], &yard["sittings"]), (&json!(2), &json!(2), &json!(1)));
    assert_eq!(yard["missing"][0], json!({"kind": "tests", "tests": 1}));
    assert_eq!(rows.iter().filter(|row| row["in_place"] == true).count(), 1);
    assert!(list["next_said"].as_str().unwrap().starts_with("Next, "), "{list}");

    let run = json!({"id": id(900), "measured_at": "2026-11-10T19:30:00Z", "readings": [],
        "speed_tests": [{"id": id(901), "download_mbps": 44.0, "upload_mbps": 15.0}]});
    let setup = yard["setup_id"].as_str().unwrap();
    let (status, told) = server.send("POST", &format!("/api/setups/{setup}/typed-runs"), Some(run)).await;
    assert_eq!(status, StatusCode::CREATED, "{told}");
    let list = server.get(&path).await;
    let yard = list["rows"].as_array().unwrap().iter().find(|row| row["label"] == "Yard table").unwrap();
    assert_eq!((&yard["tests"], &yard["sittings"], &yard["hours"]), (&json!(3), &json!(2), &json!([13, 20])));
    let missing = server.send("GET", &format!("/api/sites/{}/worklist", id(999)), None).await.0;
    assert_eq!(missing, StatusCode::NOT_FOUND);
}

/// An average typed in counts as the tests that it is of, is shown as one, and what cannot be a number of tests is refused.
#[tokio::test]
async fn an_average_counts_as_its_tests() {
    let (server, site) = demo().await;
    let list = server.get(&format!("/api/sites/{site}/worklist")).await;
    let yard = list["rows"].as_array().unwrap().iter().find(|row| row["label"] == "Yard table").unwrap();
    let path = format!("/api/setups/{}/typed-runs", yard["setup_id"].as_str().unwrap());
    let run = |of: i64| {
        json!({"id": id(900), "measured_at": "2026-11-10T19:30:00Z", "readings": [],
            "speed_tests": [{"id": id(901), "download_mbps": 44.0, "average_of": of}]})
    };
    for wrong in [0, 1, 101] {
        let (status, problem) = server.send("POST", &path, Some(run(wrong))).await;
        assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY);
        assert_eq!(problem["errors"][0]["pointer"], "/speed_tests/0/average_of", "{problem}");
    }
    let (status, told) = server.send("POST", &path, Some(run(4))).await;
    assert_eq!(status, StatusCode::CREATED, "{told}");
    assert_eq!(server.get(&format!("/api/runs/{}", id(900))).await["speed_tests"][0]["average_of"], 4);
    let list = server.get(&format!("/api/sites/{site}/worklist")).await;
    let yard = list["rows"].as_array().unwrap().iter().find(|row| row["label"] == "Yard table").unwrap();
    assert_eq!((&yard["tests"], &yard["sittings"]), (&json!(6), &json!(2)));
}

/// How near the best what stands is: a share with its range, and a step with its cost; nothing where nothing is known.
#[tokio::test]
async fn how_near_the_best_is_told() {
    let (server, site) = demo().await;
    let view = server.get(&format!("/api/sites/{site}/near-best")).await;
    let share = &view["found"]["share"];
    let [low, likely, high] = ["low", "likely", "high"].map(|at| share[at].as_f64().unwrap());
    assert!(0.0 < low && low <= likely && likely <= high && high <= 1.0, "{share}");
    let expected = server.get(&format!("/api/sites/{site}")).await["settings"]["active_setup_id"].clone();
    let outlook = server.get(&format!("/api/setups/{}/outlook", expected.as_str().unwrap())).await;
    let (now, shown) =
        (view["found"]["now_mbps"]["likely"].as_f64(), outlook["down_mbps"]["likely"].as_f64());
    let ratio = now.unwrap() / shown.unwrap();
    assert!((0.9..1.1).contains(&ratio), "Verdict and the setup's own page say the same: {ratio}");
    server.post("/api/sites", &json!({"id": id(77), "name": "Empty", "time_zone": "UTC"})).await;
    let path = format!("/api/sites/{}/near-best", id(77));
    assert_eq!(server.get(&path).await, Value::Null);
}

/// Setups for each way that a gateway can face, made once, each with the antenna left alone.
#[tokio::test]
async fn a_gateway_is_turned_into_setups() {
    let (server, site) = demo().await;
    let view = server.get(&format!("/api/sites/{site}")).await;
    let setups =
        || view["positions"].as_array().unwrap().iter().flat_map(|one| one["setups"].as_array().unwrap());
    let outside = setups().find(|one| one["setup"]["antenna"] == "external").unwrap();
    let path = format!("/api/setups/{}/gateway-place", outside["setup"]["id"].as_str().unwrap());
    let ids: Vec<_> = (0..4).map(|n| id(800 + n)).collect();
    let asked = json!({"setup_ids": ids, "place": "Hall"});
    let (status, made) = server.send("POST", &path, Some(asked.clone())).await;
    assert_eq!((status, made.as_array().unwrap().len()), (StatusCode::CREATED, 4), "{made}");
    for one in made.as_array().unwrap() {
        assert_eq!(
            (&one["azimuth_deg"], &one["gateway_place"]),
            (&outside["setup"]["azimuth_deg"], &json!("Hall"))
        );
        assert!(one["name"].as_str().unwrap().contains("gateway facing"), "{one}");
    }
    // Sent twice, they are there once.
    let (_, again) = server.send("POST", &path, Some(asked)).await;
    assert_eq!(again, made);
    // What is there already is not made under other names.
    let others: Vec<_> = (0..4).map(|n| id(850 + n)).collect();
    let (_, none) = server.send("POST", &path, Some(json!({"setup_ids": others, "place": "Hall"}))).await;
    assert_eq!(none, json!([]));
    let (status, problem) =
        server.send("POST", &path, Some(json!({"setup_ids": [], "place": "x".repeat(121)}))).await;
    assert_eq!(
        (status, &problem["errors"][0]["pointer"]),
        (StatusCode::UNPROCESSABLE_ENTITY, &json!("/place"))
    );
    let inside = setups().find(|one| one["setup"]["antenna"] == "internal").unwrap();
    let path = format!("/api/setups/{}/gateway-place", inside["setup"]["id"].as_str().unwrap());
    assert_eq!(server.get(&path).await, Value::Null);
}

#[tokio::test]
async fn lines_of_a_notebook_are_read_by_the_setups_there_are() {
    let (server, site) = demo().await;
    let path = format!("/api/sites/{site}/notebook");
    let read = async |body: Value| {
        let (status, lines) = server.send("POST", &path, Some(body)).await;
        assert_eq!(status, StatusCode::OK, "{lines}");
        lines
    };
    let lines = read(json!({"text": "gable 143 n78 -92 24 266/23.6/36\n-91 25 270/24/35\nroof 99/9"})).await;
    assert_eq!(lines[0]["setup"], "East gable at 143°\u{202f}T", "{lines}");
    assert_eq!((&lines[0]["rsrp_dbm"], &lines[1]["setup_id"]), (&json!(-92.0), &lines[0]["setup_id"]));
    assert!(lines[2]["question"].as_str().unwrap().contains("roof"));
    let barn = lines[2]["maybe"]
        .as_array()
        .unwrap()
        .iter()
        .find(|one| one["label"].as_str().unwrap().starts_with("Barn"));
    let means = json!([{"name": lines[2]["name"], "setup_id": barn.unwrap()["setup_id"]}]);
    let lines = read(json!({"text": "roof 99/9", "means": means})).await;
    assert_eq!((&lines[0]["question"], &lines[0]["setup_id"]), (&Value::Null, &barn.unwrap()["setup_id"]));
    let (status, problem) = server.send("POST", &path, Some(json!({"text": "x".repeat(4001)}))).await;
    assert_eq!(
        (status, &problem["errors"][0]["pointer"]),
        (StatusCode::UNPROCESSABLE_ENTITY, &json!("/text"))
    );
}

/// Who is shown a site is not let in to the test server by it.
#[tokio::test]
async fn what_a_test_went_over_is_shown_and_no_token_leaves() {
    let (server, site) = demo().await;
    let view = server.get(&format!("/api/sites/{site}")).await;
    let of = |name: &str| {
        let all = view["positions"].as_array().unwrap();
        let place = all.iter().find(|one| one["position"]["name"] == name).unwrap();
        place["setups"][0]["setup"]["id"].as_str().unwrap().to_owned()
    };
    let run_of = async |name: &str| {
        let log = server.get(&format!("/api/setups/{}/log", of(name))).await;
        let run = log["runs"][0]["run"]["id"].as_str().unwrap().to_owned();
        server.get(&format!("/api/runs/{run}")).await
    };
    let yard = run_of("Yard table").await;
    assert_eq!(yard["tested_over"], "Tested over Wi-Fi (wlan0), IPv4.");
    assert!(
        yard["findings"].as_array().unwrap().iter().any(|one| one["finding"]["kind"] == "tests_doubted"),
        "{yard}"
    );
    let kitchen = run_of("Kitchen sill").await;
    assert_eq!(kitchen["tested_over"], "Tested over a cable connection of 1\u{202f}Gbit/s (eth0), IPv4.");
    assert!(
        !kitchen["findings"].as_array().unwrap().iter().any(|one| one["finding"]["kind"] == "tests_doubted")
    );

    let secret = "a-token-nobody-else-knows";
    let mut settings = view["settings"].clone();
    for field in ["download_url", "upload_url", "latency_url"] {
        settings["speed_test"][field] = json!(format!("http://127.0.0.1:9/down?bytes=9&token={secret}"));
    }
    assert_eq!(server.save_settings(&site, &settings).await.0, StatusCode::OK);
    let kept = server.get(&format!("/api/sites/{site}")).await["settings"]["speed_test"].to_string();
    assert!(kept.contains(secret), "it is needed here");
    let export = server.get(&format!("/api/sites/{site}/export.json")).await.to_string();
    assert!(!export.contains(secret) && export.contains("/down?bytes=9"), "a token left with the export");
}

/// What is graphed elsewhere is what the record says last, once each.
#[tokio::test]
async fn the_newest_numbers_can_be_graphed() {
    let (server, site) = demo().await;
    let text = async || {
        let (status, bytes) = server.bytes("GET", "/metrics", Vec::new(), "text/plain").await;
        assert_eq!(status, StatusCode::OK);
        String::from_utf8(bytes).unwrap()
    };
    let first = text().await;
    let lines: Vec<&str> = first.lines().filter(|line| !line.starts_with('#')).collect();
    let mut names: Vec<&str> = lines.iter().map(|line| line.rsplit_once(' ').unwrap().0).collect();
    names.sort_unstable();
    names.dedup();
    assert_eq!(names.len(), lines.len(), "each once: {first}");
    assert!(
        lines.iter().any(|line| line.starts_with("open_beacon_rsrp_dbm{site=\"Hulderbekk croft\"")),
        "{first}"
    );
    let setup = server.get(&format!("/api/sites/{site}")).await["settings"]["active_setup_id"].clone();
    let run = json!({"id": id(870), "measured_at": chrono::Utc::now(), "readings": [],
        "speed_tests": [{"id": id(871), "download_mbps": 77.25, "upload_mbps": 15.0}]});
    server.post(&format!("/api/setups/{}/typed-runs", setup.as_str().unwrap()), &run).await;
    let down = |text: &str| {
        text.lines().find(|line| line.starts_with("open_beacon_download_mbps")).unwrap().to_owned()
    };
    assert!(down(&text().await).ends_with(" 77.25"), "{}", text().await);
}
