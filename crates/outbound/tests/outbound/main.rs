//! Where requests may go: over real sockets.

// A test that cannot go on has failed.
#![allow(clippy::unwrap_used)]

use axum::Router;
use axum::response::Redirect;
use axum::routing::get;
use open_beacon_outbound::{Redirects, Refusal, SendError, check, check_host, client, listens_on, send};
use std::time::Duration;

async fn server(router: Router) -> u16 {
    let listener = tokio::net::TcpListener::bind("127.0.0.1:0").await.unwrap();
    let port = listener.local_addr().unwrap().port();
    tokio::spawn(async move { axum::serve(listener, router).await });
    port
}

fn refusal<T: std::fmt::Debug>(answer: Result<T, SendError>) -> Refusal {
    match answer {
        Err(SendError::Refused(refusal)) => refusal,
        other => panic!("{other:?}"),
    }
}

#[test]
fn addresses_that_no_device_has_are_refused_in_every_spelling() {
    for address in [
        "http://169.254.169.254/latest",
        "http://[fe80::1]/",
        "http://[::ffff:169.254.169.254]/",
        "http://0.0.0.0:80/",
        "http://[::]/",
        "http://224.0.0.1/",
        "http://255.255.255.255/",
        // One number is an IPv4 address to every browser and client: 169.254.169.254.
        "http://2852039166/",
    ] {
        assert!(matches!(check(&address.parse().unwrap()), Err(Refusal::Special(_))), "{address}");
    }
    for address in ["file:///etc/passwd", "ftp://192.168.1.1/", "data:text/plain,x"] {
        assert_eq!(check(&address.parse().unwrap()), Err(Refusal::NoAddress), "{address}");
    }
    for address in [
        "http://192.168.8.1/status.json",
        "https://10.0.0.1:8443/",
        "http://[fd00::1]/",
        "http://gateway.lan/",
    ] {
        assert_eq!(check(&address.parse().unwrap()), Ok(()), "{address}");
    }
}

#[tokio::test]
async fn the_program_does_not_ask_itself() {
    let port = server(Router::new().route("/", get(|| async { "the pairing code" }))).await;
    let asks = |host: &str| {
        send(client(Redirects::SameOrigin).build().unwrap().get(format!("http://{host}:{port}/")))
    };
    assert!(
        asks("127.0.0.1").await.unwrap().status().is_success(),
        "another program on this computer may be asked"
    );
    listens_on(port);
    for host in ["127.0.0.1", "localhost", "127.1.2.3", "[::1]", "[::ffff:127.0.0.1]", "2130706433"] {
        assert_eq!(refusal(asks(host).await), Refusal::Own, "{host}");
    }
    assert_eq!(check_host("127.0.0.1", port), Err(Refusal::Own), "a modem's address too");
    assert_eq!(check_host("127.0.0.1", port.wrapping_add(1)), Ok(()));
}

#[tokio::test]
async fn a_redirect_leads_nowhere_else() {
    let other = server(Router::new().route("/", get(|| async { "taken" }))).await;
    let to = format!("http://127.0.0.1:{other}/");
    let router = Router::new()
        .route("/away", get(move || async move { Redirect::temporary(&to) }))
        .route("/metadata", get(|| async { Redirect::temporary("http://169.254.169.254/") }))
        .route("/backslash", get(|| async { Redirect::temporary("/home") }))
        .route("/round", get(|| async { Redirect::temporary("/round") }))
        .route("/home", get(|| async { "home" }));
    let port = server(router).await;
    let at = |path: &str| format!("http://127.0.0.1:{port}{path}");
    let strict = client(Redirects::SameOrigin).timeout(Duration::from_secs(5)).build().unwrap();
    let loose = client(Redirects::SameHost).timeout(Duration::from_secs(5)).build().unwrap();
    let elsewhere = send(strict.get(at("/away"))).await.unwrap();
    assert!(
        elsewhere.status().is_redirection(),
        "another port is another device: the redirect is the answer"
    );
    assert_eq!(send(loose.get(at("/away"))).await.unwrap().text().await.unwrap(), "taken");
    assert!(matches!(refusal(send(loose.get(at("/metadata"))).await), Refusal::LeadsElsewhere(_)));
    assert!(send(strict.get(at("/metadata"))).await.unwrap().status().is_redirection());
    for one in [&strict, &loose] {
        assert_eq!(send(one.get(at("/backslash"))).await.unwrap().text().await.unwrap(), "home");
        assert!(send(one.get(at("/round"))).await.unwrap().status().is_redirection(), "it ends");
    }
}
