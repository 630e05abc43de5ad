use axum::Router;
use axum::body::Body;
use axum::http::{Request, StatusCode};
use axum::middleware::from_fn_with_state;
use open_beacon_api::{Guard, guard};
use tower::ServiceExt;

async fn status(method: &str, headers: &[(&str, &str)]) -> StatusCode {
    let server = crate::server();
    let guarded: Router =
        server.router.clone().layer(from_fn_with_state(Guard::loopback(7420), guard::guard));
    let mut request = Request::builder().method(method).uri("/api/sites");
    for (name, value) in headers {
        request = request.header(*name, *value);
    }
    let response = guarded.oneshot(request.body(Body::from("{}")).unwrap()).await.unwrap();
    assert!(response.headers()["content-security-policy"].to_str().unwrap().contains("default-src 'self'"));
    assert_eq!(response.headers()["x-content-type-options"], "nosniff");
    response.status()
}

const HOST: (&str, &str) = ("host", "127.0.0.1:7420");
const JSON: (&str, &str) = ("content-type", "application/json");

#[tokio::test]
async fn its_own_pages_and_programs_are_served() {
    assert_eq!(status("GET", &[HOST]).await, StatusCode::OK);
    assert_eq!(status("GET", &[("host", "localhost:7420")]).await, StatusCode::OK);
    assert_eq!(status("GET", &[HOST, ("sec-fetch-site", "same-origin")]).await, StatusCode::OK);
    let own = [HOST, JSON, ("origin", "http://127.0.0.1:7420"), ("sec-fetch-site", "same-origin")];
    // Past the guard, an empty object is a bad request.
    assert_eq!(status("POST", &own).await, StatusCode::UNPROCESSABLE_ENTITY);
}

#[tokio::test]
async fn another_name_for_this_address_is_refused() {
    assert_eq!(status("GET", &[("host", "evil.example:7420")]).await, StatusCode::FORBIDDEN);
    assert_eq!(status("GET", &[("host", "127.0.0.1:9999")]).await, StatusCode::FORBIDDEN);
    assert_eq!(status("GET", &[]).await, StatusCode::FORBIDDEN);
}

#[tokio::test]
async fn other_pages_cannot_post_or_read() {
    for origin in ["http://evil.example", "null", "http://127.0.0.1:9999", "https://127.0.0.1:7420"] {
        assert_eq!(
            status("POST", &[HOST, JSON, ("origin", origin)]).await,
            StatusCode::FORBIDDEN,
            "{origin}"
        );
    }
    for site in ["cross-site", "same-site"] {
        assert_eq!(status("POST", &[HOST, JSON, ("sec-fetch-site", site)]).await, StatusCode::FORBIDDEN);
        assert_eq!(status("GET", &[HOST, ("sec-fetch-site", site)]).await, StatusCode::FORBIDDEN);
    }
    let link = [HOST, ("sec-fetch-site", "cross-site"), ("sec-fetch-mode", "navigate")];
    assert_eq!(status("GET", &link).await, StatusCode::OK, "a link may open it");
    assert_eq!(status("POST", &link).await, StatusCode::FORBIDDEN);
}

#[tokio::test]
async fn json_is_taken_only_as_json() {
    // What a plain form can send without asking first.
    for media_type in ["text/plain", "application/x-www-form-urlencoded", "multipart/form-data"] {
        assert_eq!(
            status("POST", &[HOST, ("content-type", media_type)]).await,
            StatusCode::UNSUPPORTED_MEDIA_TYPE,
            "{media_type}"
        );
    }
}
