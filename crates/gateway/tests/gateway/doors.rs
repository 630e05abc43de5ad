//! Signing in, and every fault that the stand-in knows, each through the real driver.

use super::settings;
use open_beacon_domain::model::*;
use open_beacon_gateway::*;
use open_beacon_outbound::Transport;
use open_beacon_simulator::door::{PASSWORD, USER};
use open_beacon_simulator::pages::gateway_router;
use open_beacon_simulator::serve::{Fault, REBOOT, StandIn};
use std::sync::Arc;
use std::time::{Duration, Instant};

async fn stand_in() -> (Arc<StandIn>, String) {
    let stand_in = StandIn::new(7, Duration::from_millis(50));
    let listener = tokio::net::TcpListener::bind("127.0.0.1:0").await.unwrap();
    let address = format!("http://{}", listener.local_addr().unwrap());
    tokio::spawn(axum::serve(listener, gateway_router(stand_in.clone())).into_future());
    (stand_in, address)
}

fn named(name: &str, value: &str) -> Named {
    Named { name: name.into(), value: value.into() }
}

fn secrets(password: &str) -> GatewaySecrets {
    GatewaySecrets { user: USER.into(), password: password.into() }
}

fn with(address: &str, page: &str, login: Login) -> GatewaySettings {
    let mut settings = settings(&format!("{address}{page}"));
    settings.recipe.login = login;
    settings
}

fn form() -> Login {
    let step = LoginStep {
        method: AskMethod::Post,
        path: "/door/login".into(),
        body: "user=${user}&password=${password}".into(),
        ..LoginStep::default()
    };
    Login::Steps { steps: vec![step] }
}

/// A nonce is fetched, the answer worked out from two digests, a token sent back in a header.
fn nonce() -> Login {
    let ask = LoginStep {
        path: "/door/challenge".into(),
        keep: vec![named("nonce", "/data/nonce"), named("csrf", "/data/csrf")],
        ..LoginStep::default()
    };
    let answer = LoginStep {
        method: AskMethod::Post,
        path: "/door/answer".into(),
        compute: vec![named("digest", "${password|sha256}"), named("answer", "${digest+nonce|sha256}")],
        headers: vec![named("X-Csrf-Token", "${csrf}")],
        send: SendAs::Json,
        body: r#"{"user":"${user}","nonce":"${nonce}","answer":"${answer}"}"#.into(),
        must_hold: Some(named("/result", "ok")),
        ..LoginStep::default()
    };
    Login::Steps { steps: vec![ask, answer] }
}

fn driver(settings: &GatewaySettings, password: &str, attempts: &LoginAttempts) -> Driver {
    Driver::new(settings, secrets(password), attempts.clone()).unwrap()
}

#[tokio::test]
async fn each_way_of_signing_in_is_let_in_and_once_only() {
    for (page, login, logins_a_look) in [
        ("/door/status.json", form(), 0),
        ("/door/status.json", nonce(), 0),
        ("/door/basic.json", Login::Basic, 1),
    ] {
        let (stand_in, address) = stand_in().await;
        let gateway = driver(&with(&address, page, login), PASSWORD, &LoginAttempts::default());
        for _ in 0..4 {
            assert!(!gateway.read().await.unwrap().carriers.is_empty());
        }
        assert_eq!(stand_in.door.tried().0, if logins_a_look == 0 { 1 } else { 4 }, "{page}");
    }
}

#[tokio::test]
async fn a_session_that_ran_out_is_opened_again_without_being_told_of() {
    let (stand_in, address) = stand_in().await;
    let gateway = driver(&with(&address, "/door/status.json", nonce()), PASSWORD, &LoginAttempts::default());
    gateway.read().await.unwrap();
    stand_in.set_fault(Fault::LoginExpired, REBOOT);
    gateway.read().await.unwrap();
    assert_eq!(stand_in.door.tried(), (2, 0));
}

#[tokio::test]
async fn after_two_failed_logins_none_is_tried_by_any_driver_until_the_user_says_so() {
    for login in [form(), nonce(), Login::Basic] {
        let (stand_in, address) = stand_in().await;
        let page = if login == Login::Basic { "/door/basic.json" } else { "/door/status.json" };
        let settings = with(&address, page, login);
        let attempts = LoginAttempts::default();
        let mut last = None;
        for _ in 0..3 {
            // A new driver each time: the count is the gateway's, not the connection's.
            let gateway = driver(&settings, "wrong", &attempts);
            last = gateway.read().await.err();
            assert!(gateway.read().await.is_err());
        }
        assert!(matches!(last, Some(DriverError::LoginFailed { stopped: true, .. })), "{last:?}");
        assert_eq!(stand_in.door.tried(), (2, 2), "the device was never locked");
        attempts.set(0);
        driver(&settings, PASSWORD, &attempts).read().await.unwrap();
        assert_eq!(attempts.failed(), 0);
    }
}

#[tokio::test]
async fn a_locked_door_is_said_and_left_alone() {
    let (stand_in, address) = stand_in().await;
    stand_in.set_fault(Fault::LockedOut, REBOOT);
    let gateway = driver(&with(&address, "/door/status.json", form()), PASSWORD, &LoginAttempts::default());
    let mut watcher = Watcher::new(gateway);
    for _ in 0..5 {
        watcher.look().await;
    }
    let LinkStatus::LoginFailed { stopped, .. } = &watcher.state().status else {
        panic!("{:?}", watcher.state())
    };
    assert!(stopped);
    assert_eq!(stand_in.door.tried().0, 2);
}

#[tokio::test]
async fn every_fault_of_the_page_is_told_by_its_own_words() {
    let (stand_in, address) = stand_in().await;
    let mut watcher =
        Watcher::new(driver(&settings(&format!("{address}/status.json")), "", &LoginAttempts::default()));
    assert!(watcher.look().await.is_some());

    stand_in.set_fault(Fault::Slow, REBOOT);
    let began = Instant::now();
    assert!(watcher.look().await.is_some(), "slow is not silent");
    assert!(began.elapsed() >= Duration::from_secs(3));

    stand_in.set_fault(Fault::Half, REBOOT);
    assert!(watcher.look().await.is_none());
    let LinkStatus::Unreachable { problem, .. } = &watcher.state().status else {
        panic!("{:?}", watcher.state().status)
    };
    assert_eq!(problem, "it broke off in the middle of its answer");

    stand_in.set_fault(Fault::LoginPage, REBOOT);
    watcher.look().await;
    let LinkStatus::Nonsense { said, .. } = &watcher.state().status else {
        panic!("{:?}", watcher.state().status)
    };
    assert!(said.contains("Please sign in"));

    stand_in.set_fault(Fault::WrongType, REBOOT);
    watcher.look().await;
    let LinkStatus::Nonsense { problem, .. } = &watcher.state().status else { panic!() };
    assert!(problem.contains("/rsrp"), "{problem}");
}

#[tokio::test]
async fn a_restart_is_waited_for_with_growing_pauses_and_then_found() {
    let (stand_in, address) = stand_in().await;
    let settings = with(&address, "/door/status.json", form());
    let mut watcher = Watcher::new(driver(&settings, PASSWORD, &LoginAttempts::default()));
    let interval = Duration::from_millis(500);
    watcher.look().await.unwrap();
    assert_eq!(watcher.pause(interval), interval);
    stand_in.set_fault(Fault::Reboot, Duration::from_secs(6));
    let mut pauses = Vec::new();
    while watcher.look().await.is_none() {
        pauses.push(watcher.pause(interval).as_secs());
        assert!(pauses.len() < 5, "never found again");
    }
    assert_eq!(pauses, [2, 4][..pauses.len()]);
    // The session went with the restart; it was opened again.
    assert_eq!((watcher.state().status.clone(), stand_in.door.tried()), (LinkStatus::Live, (2, 0)));
    for (failures, seconds) in [(3, 8), (4, 10), (40, 10)] {
        let mut away = Watcher::new(super::driver("http://127.0.0.1:9/"));
        for _ in 0..failures {
            away.look().await;
        }
        assert_eq!(away.pause(interval), Duration::from_secs(seconds));
    }
}

#[tokio::test]
async fn a_certificate_of_its_own_is_taken_only_where_the_user_vouched_for_it() {
    let made = rcgen::generate_simple_self_signed(vec!["127.0.0.1".to_owned()]).unwrap();
    let _ = rustls::crypto::ring::default_provider().install_default();
    let tls = axum_server::tls_rustls::RustlsConfig::from_pem(
        made.cert.pem().into_bytes(),
        made.signing_key.serialize_pem().into_bytes(),
    )
    .await
    .unwrap();
    let listener = std::net::TcpListener::bind("127.0.0.1:0").unwrap();
    listener.set_nonblocking(true).unwrap();
    let address = listener.local_addr().unwrap();
    let app = gateway_router(StandIn::new(7, Duration::from_millis(50)));
    let server = axum_server::from_tcp_rustls(listener, tls).unwrap();
    tokio::spawn(server.serve(app.into_make_service()));

    let mut settings = settings(&format!("https://{address}/status.json"));
    let look =
        test_connection(&settings, GatewaySecrets::default(), LoginAttempts::default(), &Transport::Network)
            .await;
    let print = look.certificate_sha256.expect("the print is shown");
    assert_eq!((look.reading, print.len()), (None, 64));
    settings.certificate_sha256 = Some("0".repeat(64));
    let other =
        test_connection(&settings, GatewaySecrets::default(), LoginAttempts::default(), &Transport::Network)
            .await;
    assert_eq!(other.certificate_sha256.as_ref(), Some(&print), "another one's print opens nothing");
    settings.certificate_sha256 = Some(print);
    let look =
        test_connection(&settings, GatewaySecrets::default(), LoginAttempts::default(), &Transport::Network)
            .await;
    assert!(look.reading.is_some(), "{:?}", look.problem);
    assert!(look.suggestion.is_some() && look.page.is_some());
}

#[tokio::test]
async fn a_page_is_left_alone_for_most_of_the_time_it_takes_to_renew_itself() {
    let stand_in = StandIn::new(7, Duration::from_millis(600));
    let listener = tokio::net::TcpListener::bind("127.0.0.1:0").await.unwrap();
    let address = format!("http://{}/status.json", listener.local_addr().unwrap());
    tokio::spawn(axum::serve(listener, gateway_router(stand_in)).into_future());
    let mut watcher = Watcher::new(super::driver(&address));
    let interval = Duration::from_millis(100);
    // How long the looks themselves take is the machine's affair; what is asked for between them is the watcher's.
    let (mut rested, mut looked_on) = (0, 0);
    let mut shown_before = None;
    let began = Instant::now();
    while rested < 3 || looked_on < 3 {
        assert!(
            began.elapsed() < Duration::from_secs(60),
            "rested {rested} times, looked on {looked_on} times"
        );
        let counted = watcher.look().await.unwrap().novelty.counts();
        let pause = watcher.pause(interval);
        let shown = watcher.state().reading.as_ref().map(fingerprint);
        let renewed = shown != shown_before;
        if let Some(period_s) = watcher.state().refresh_period_s {
            let rest = interval.max(Duration::from_secs_f64(0.6 * period_s));
            assert!(pause == interval || renewed, "only a page that has just been renewed rests");
            // On a page that changed, the carrier's own block may stand still; the page has been renewed all the same.
            assert!(pause == rest || !counted, "{pause:?} after a measurement, of {period_s} s");
            rested += u32::from(pause > interval);
            looked_on += u32::from(pause == interval);
        }
        shown_before = shown;
        tokio::time::sleep(pause).await;
    }
}

#[test]
fn secrets_do_not_show_in_what_is_logged() {
    assert!(!format!("{:?}", secrets(PASSWORD)).contains("lantern"));
    let settings = with("http://127.0.0.1:9", "/door/status.json", form());
    let gateway = driver(&settings, PASSWORD, &LoginAttempts::default());
    let shown = format!("{gateway:?}");
    assert!(!shown.contains("lantern") && !shown.contains(USER), "{shown}");
}

/// A recipe is a file that people share. Whatever path it names, also one that it makes of the device's own answers, and
/// wherever the device redirects to, name and password reach nobody else. The check of a recipe's fields is passed by here: the
/// driver does not lean on it.
#[tokio::test]
async fn nothing_leads_off_the_gateway() {
    use axum::response::Redirect;
    use axum::routing::{get, post};
    use std::sync::atomic::{AtomicUsize, Ordering};
    let taken = Arc::new(AtomicUsize::new(0));
    let counter = taken.clone();
    let thief = axum::Router::new().fallback(move || {
        counter.fetch_add(1, Ordering::SeqCst);
        async { "{}" }
    });
    let listen = || async { tokio::net::TcpListener::bind("127.0.0.1:0").await.unwrap() };
    let elsewhere = listen().await;
    let port = elsewhere.local_addr().unwrap().port();
    tokio::spawn(axum::serve(elsewhere, thief).into_future());
    let away = format!("http://127.0.0.1:{port}/x");
    let [first, second] = [away.clone(), away.clone()];
    let page = axum::Router::new()
        .route("/status.json", get(move || async move { Redirect::temporary(&first) }))
        .route("/login", post(move || async move { Redirect::temporary(&second) }))
        .route("/token", get(move || async move { format!("{{\"next\": \"\\\\\\\\127.0.0.1:{port}/x\"}}") }));
    let here = listen().await;
    let address = format!("http://{}", here.local_addr().unwrap());
    tokio::spawn(axum::serve(here, page).into_future());
    let step = |path: &str| LoginStep {
        method: AskMethod::Post,
        path: path.into(),
        body: "user=${user}&password=${password}".into(),
        ..LoginStep::default()
    };
    let token =
        LoginStep { path: "/token".into(), keep: vec![named("next", "/next")], ..LoginStep::default() };
    let logins = [
        Login::Basic,
        Login::Steps { steps: vec![step("/login")] },
        Login::Steps { steps: vec![step(&format!("/\\127.0.0.1:{port}/x"))] },
        Login::Steps { steps: vec![step(&format!("//127.0.0.1:{port}/x"))] },
        Login::Steps { steps: vec![step(&away)] },
        Login::Steps { steps: vec![token, step("/${next}")] },
    ];
    for login in logins {
        let what = format!("{login:?}");
        let gateway = driver(&with(&address, "/status.json", login), PASSWORD, &LoginAttempts::default());
        assert!(gateway.read().await.is_err(), "{what}");
        assert_eq!(taken.load(Ordering::SeqCst), 0, "{what}");
    }
    let request = LockRequest {
        method: AskMethod::Post,
        path: format!("/\\127.0.0.1:{port}/${{lte_bands}}"),
        body: "${password}".into(),
        undo_body: "off".into(),
        ..LockRequest::default()
    };
    let recipe = LockRecipe { request: Some(request), ..LockRecipe::default() };
    let gateway = driver(&with(&address, "/status.json", Login::Basic), PASSWORD, &LoginAttempts::default());
    let values = [("lte_bands", "3".to_owned())];
    assert!(gateway.lock(&recipe, Some(&values)).await.is_err());
    assert_eq!(taken.load(Ordering::SeqCst), 0, "a lock");
}
