//! Which certificates are taken: those that the public authorities vouch for, and the one that the user vouches for.

use super::template::hex;
use rustls::client::WebPkiServerVerifier;
use rustls::client::danger::{HandshakeSignatureValid, ServerCertVerified, ServerCertVerifier};
use rustls::pki_types::{CertificateDer, ServerName, UnixTime};
use rustls::{CertificateError, ClientConfig, DigitallySignedStruct, Error, RootCertStore, SignatureScheme};
use sha2::{Digest, Sha256};
use std::sync::{Arc, Mutex, PoisonError};

/// The last certificate that was refused, by its SHA-256.
pub(super) type Refused = Arc<Mutex<Option<String>>>;

#[derive(Debug)]
struct Pinned {
    usual: Arc<WebPkiServerVerifier>,
    vouched_for: Option<String>,
    refused: Refused,
}

impl ServerCertVerifier for Pinned {
    fn verify_server_cert(
        &self,
        end_entity: &CertificateDer<'_>,
        intermediates: &[CertificateDer<'_>],
        server_name: &ServerName<'_>,
        ocsp_response: &[u8],
        now: UnixTime,
    ) -> Result<ServerCertVerified, Error> {
        let print = hex(&Sha256::digest(end_entity));
        if self.vouched_for.as_ref().is_some_and(|wanted| wanted.eq_ignore_ascii_case(&print)) {
            return Ok(ServerCertVerified::assertion());
        }
        self.usual.verify_server_cert(end_entity, intermediates, server_name, ocsp_response, now).map_err(
            |_| {
                *self.refused.lock().unwrap_or_else(PoisonError::into_inner) = Some(print);
                Error::InvalidCertificate(CertificateError::UnknownIssuer)
            },
        )
    }

    fn verify_tls12_signature(
        &self,
        message: &[u8],
        cert: &CertificateDer<'_>,
        dss: &DigitallySignedStruct,
    ) -> Result<HandshakeSignatureValid, Error> {
        self.usual.verify_tls12_signature(message, cert, dss)
    }

    fn verify_tls13_signature(
        &self,
        message: &[u8],
        cert: &CertificateDer<'_>,
        dss: &DigitallySignedStruct,
    ) -> Result<HandshakeSignatureValid, Error> {
        self.usual.verify_tls13_signature(message, cert, dss)
    }

    fn supported_verify_schemes(&self) -> Vec<SignatureScheme> {
        self.usual.supported_verify_schemes()
    }
}

/// A TLS configuration that takes also the one certificate with this SHA-256; what it refused last stands in `refused`.
///
/// # Errors
/// Where TLS cannot be set up on this machine.
pub(super) fn tls(vouched_for: Option<&str>, refused: Refused) -> Result<ClientConfig, Error> {
    let provider = Arc::new(rustls::crypto::ring::default_provider());
    let roots = Arc::new(RootCertStore { roots: webpki_roots::TLS_SERVER_ROOTS.to_vec() });
    let usual = WebPkiServerVerifier::builder_with_provider(roots, provider.clone())
        .build()
        .map_err(|error| Error::General(error.to_string()))?;
    let pinned = Pinned { usual, vouched_for: vouched_for.map(str::to_owned), refused };
    Ok(ClientConfig::builder_with_provider(provider)
        .with_safe_default_protocol_versions()?
        .dangerous()
        .with_custom_certificate_verifier(Arc::new(pinned))
        .with_no_client_auth())
}
