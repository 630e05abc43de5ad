//! Opening to the local network: a name that stays, TLS by the computer's own authority, and the page that leads a
//! phone's owner through trusting it.

use crate::application::unguarded;
use crate::authority::certificate_files;
use crate::patience::{patient, with_body_timeout};
use crate::room::{MOST_FROM_NETWORK, Room};
use anyhow::Context;
use axum::Router;
use axum::extract::State;
use axum::http::header;
use axum::middleware::from_fn_with_state;
use axum::response::{Html, IntoResponse};
use axum::routing::get;
use axum_server::tls_rustls::{RustlsAcceptor, RustlsConfig};
use chrono::Utc;
use mdns_sd::{ServiceDaemon, ServiceInfo};
use open_beacon_api::pairing::{Lan, new_token};
use open_beacon_api::routes::lan::own_addresses;
use open_beacon_api::{AppState, Gate, Guard, guard};
use qrcode::QrCode;
use qrcode::render::unicode;
use sha2::{Digest, Sha256};
use std::fs;
use std::net::{SocketAddr, TcpListener};
use std::path::Path;

/// What was asked for at the start.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Wanted {
    pub secure: bool,
    pub port: u16,
}

/// Opens the listeners, announces the name and prints the first code.
pub(crate) async fn open(data: &Path, wanted: Wanted, state: &AppState) -> anyhow::Result<()> {
    let folder = data.join("lan");
    open_beacon_store::create_private_folder(&folder)?;
    let name = kept_name(&folder)?;
    let addresses = own_addresses();
    let listener = listen(wanted.port)?;
    let port = listener.local_addr()?.port();
    open_beacon_outbound::listens_on(port);
    let mut lan = Lan { secure: wanted.secure, name, port, trust_port: None, authority_sha256: None };
    let files = wanted.secure.then(|| certificate_files(&folder, &lan.name, &addresses)).transpose()?;
    if let Some(files) = &files {
        let trust = listen(0)?;
        let trust_port = trust.local_addr()?.port();
        open_beacon_outbound::listens_on(trust_port);
        lan.trust_port = Some(trust_port);
        lan.authority_sha256 = Some(in_pairs(&Sha256::digest(&files.authority_der)));
        let page = Trust { lan: lan.clone(), authority_der: files.authority_der.clone() };
        let router = Router::new()
            .route("/", get(trust_page))
            .route("/open-beacon-authority.crt", get(authority_file))
            .with_state(page);
        tokio::spawn(axum::serve(tokio::net::TcpListener::from_std(trust)?, router).into_future());
    }
    let _ = state.lan.set(lan.clone());
    let app = with_body_timeout(unguarded(state.clone()))
        .layer(from_fn_with_state(Gate { app: state.clone() }, guard::gate))
        .layer(from_fn_with_state(Guard::lan(&lan), guard::guard));
    let room = |plain| Room::new(MOST_FROM_NETWORK, plain);
    match files {
        Some(files) => {
            // Set twice in one process (tests), the second is refused and the first holds.
            let _ = rustls::crypto::ring::default_provider().install_default();
            let tls =
                RustlsConfig::from_pem(files.chain_pem.into_bytes(), files.key_pem.into_bytes()).await?;
            let server = patient(
                axum_server::from_tcp(listener)?.acceptor(RustlsAcceptor::new(tls).acceptor(room(false))),
            );
            tokio::spawn(server.serve(app.into_make_service()));
        }
        None => {
            tokio::spawn(
                patient(axum_server::from_tcp(listener)?.acceptor(room(true))).serve(app.into_make_service()),
            );
        }
    }
    announce(&lan);
    let code = state.pairing.renew(Utc::now());
    let url = format!("{}/pair#{}", lan.origin(), code.text);
    println!("Open to the local network at {}/", lan.origin());
    for address in &addresses {
        println!(
            "  by number, where a phone does not know the name: {}/",
            lan.origin_of(&address.to_string())
        );
    }
    if let (Some(port), Some(address)) = (lan.trust_port, addresses.first()) {
        println!("First let the phone trust this computer: http://{address}:{port}/");
    }
    println!("Then let it in with {url} (once, within ten minutes):");
    if let Ok(drawn) = QrCode::new(url.as_bytes()) {
        println!("{}", drawn.render::<unicode::Dense1x2>().quiet_zone(true).build());
    }
    Ok(())
}

fn listen(port: u16) -> anyhow::Result<TcpListener> {
    let bound = TcpListener::bind(SocketAddr::from(([0, 0, 0, 0], port))).or_else(|error| {
        if error.kind() == std::io::ErrorKind::AddrInUse && port != 0 {
            println!(
                "Port {port} is in use; phones that were let in before look for it in vain. Taking another."
            );
            TcpListener::bind(SocketAddr::from(([0, 0, 0, 0], 0)))
        } else {
            Err(error)
        }
    });
    let listener = bound.with_context(|| format!("listening on port {port}"))?;
    listener.set_nonblocking(true)?;
    Ok(listener)
}

/// The name is kept with the data: a phone's queue belongs to it.
fn kept_name(folder: &Path) -> anyhow::Result<String> {
    let file = folder.join("name.txt");
    if let Ok(name) = fs::read_to_string(&file)
        && name.trim().ends_with(".local")
    {
        return Ok(name.trim().to_owned());
    }
    let name = format!("open-beacon-{}.local", &new_token()[..4]);
    fs::write(file, &name)?;
    Ok(name)
}

/// Answers for the name on the local network (multicast DNS, RFC 6762), whatever address the computer has.
fn announce(lan: &Lan) {
    let announced = ServiceDaemon::new().and_then(|daemon| {
        let host = format!("{}.", lan.name);
        let kind = if lan.secure { "_https._tcp.local." } else { "_http._tcp.local." };
        let service = ServiceInfo::new(kind, "Open Beacon", &host, "", lan.port, None)?.enable_addr_auto();
        daemon.register(service)
    });
    if let Err(error) = announced {
        println!("The name {} could not be announced ({error}); use the number.", lan.name);
    }
}

fn in_pairs(bytes: &[u8]) -> String {
    bytes.iter().map(|byte| format!("{byte:02X}")).collect::<Vec<_>>().join(" ")
}

#[derive(Clone)]
struct Trust {
    lan: Lan,
    authority_der: Vec<u8>,
}

async fn authority_file(State(trust): State<Trust>) -> impl IntoResponse {
    ([(header::CONTENT_TYPE, "application/x-x509-ca-cert")], trust.authority_der)
}

async fn trust_page(State(trust): State<Trust>) -> Html<String> {
    Html(
        include_str!("trust.html")
            .replace("{{origin}}", &trust.lan.origin())
            .replace("{{print}}", trust.lan.authority_sha256.as_deref().unwrap_or_default()),
    )
}
