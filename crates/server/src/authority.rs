//! A certificate authority of this computer's own, for phones on the local network.

use anyhow::Context;
use rcgen::{
    BasicConstraints, CertificateParams, DistinguishedName, DnType, IsCa, Issuer, KeyPair, KeyUsagePurpose,
};
use rustls::pki_types::CertificateDer;
use rustls::pki_types::pem::PemObject;
use std::fs;
use std::net::IpAddr;
use std::path::Path;
use time::{Duration, OffsetDateTime};

/// The authority, and a certificate by it for this computer's names.
pub(crate) struct CertificateFiles {
    /// The authority's certificate, DER: what a phone is asked to trust.
    pub authority_der: Vec<u8>,
    pub chain_pem: String,
    pub key_pem: String,
}

const AUTHORITY: &str = "authority.pem";
const AUTHORITY_KEY: &str = "authority.key.pem";

/// Reads the authority in `folder`, or makes it, and has it vouch for the names. The authority stays, so that a phone
/// trusts once; the certificate is made anew at each start, for the addresses of the day.
pub(crate) fn certificate_files(
    folder: &Path,
    name: &str,
    addresses: &[IpAddr],
) -> anyhow::Result<CertificateFiles> {
    fs::create_dir_all(folder)?;
    let (certificate, key) = (folder.join(AUTHORITY), folder.join(AUTHORITY_KEY));
    if !certificate.exists() || !key.exists() {
        make(&certificate, &key)?;
    }
    let authority_pem = fs::read_to_string(&certificate)?;
    let authority_key = KeyPair::from_pem(&fs::read_to_string(&key)?).context("the authority's key")?;
    let issuer = Issuer::new(authority_params(), authority_key);
    let mut names = vec![name.to_owned()];
    // The authority may vouch for addresses of home networks only; one other name would void the whole certificate.
    let at_home = |one: &&IpAddr| matches!(one, IpAddr::V4(address) if address.is_private());
    names.extend(addresses.iter().filter(at_home).map(IpAddr::to_string));
    let mut wanted = CertificateParams::new(names)?;
    let now = OffsetDateTime::now_utc();
    // Phones refuse certificates that hold longer than 398 days or so (common practice, no source).
    (wanted.not_before, wanted.not_after) = (now - Duration::days(1), now + Duration::days(390));
    wanted.distinguished_name = named(name);
    wanted.extended_key_usages = vec![rcgen::ExtendedKeyUsagePurpose::ServerAuth];
    wanted.use_authority_key_identifier_extension = true;
    let key = KeyPair::generate()?;
    let signed = wanted.signed_by(&key, &issuer)?;
    let authority_der = CertificateDer::from_pem_slice(authority_pem.as_bytes())
        .map_err(|error| anyhow::anyhow!("the authority's certificate: {error}"))?;
    Ok(CertificateFiles {
        authority_der: authority_der.to_vec(),
        chain_pem: format!("{}{authority_pem}", signed.pem()),
        key_pem: key.serialize_pem(),
    })
}

fn named(name: &str) -> DistinguishedName {
    let mut names = DistinguishedName::new();
    names.push(DnType::CommonName, name);
    names
}

/// The authority, all but the time it holds: its name and key are all that a certificate by it takes over.
fn authority_params() -> CertificateParams {
    let mut authority = CertificateParams::default();
    authority.distinguished_name = named("Open Beacon on this computer");
    // It can vouch for nothing below itself but servers of this kind of name.
    authority.is_ca = IsCa::Ca(BasicConstraints::Constrained(0));
    authority.key_usages = vec![KeyUsagePurpose::KeyCertSign, KeyUsagePurpose::CrlSign];
    authority.name_constraints = Some(rcgen::NameConstraints {
        permitted_subtrees: vec![
            rcgen::GeneralSubtree::DnsName("local".into()),
            rcgen::GeneralSubtree::IpAddress(rcgen::CidrSubnet::V4([10, 0, 0, 0], [255, 0, 0, 0])),
            rcgen::GeneralSubtree::IpAddress(rcgen::CidrSubnet::V4([172, 16, 0, 0], [255, 240, 0, 0])),
            rcgen::GeneralSubtree::IpAddress(rcgen::CidrSubnet::V4([192, 168, 0, 0], [255, 255, 0, 0])),
        ],
        excluded_subtrees: Vec::new(),
    });
    authority
}

fn make(certificate: &Path, key: &Path) -> anyhow::Result<()> {
    let mut authority = authority_params();
    let now = OffsetDateTime::now_utc();
    (authority.not_before, authority.not_after) = (now - Duration::days(1), now + Duration::days(3650));
    let pair = KeyPair::generate()?;
    let signed = authority.self_signed(&pair)?;
    write_private(key, &pair.serialize_pem())?;
    fs::write(certificate, signed.pem())?;
    Ok(())
}

/// Only the owner may read a key.
fn write_private(path: &Path, text: &str) -> anyhow::Result<()> {
    use std::io::Write;
    let mut options = fs::OpenOptions::new();
    options.write(true).create(true).truncate(true);
    #[cfg(unix)]
    std::os::unix::fs::OpenOptionsExt::mode(&mut options, 0o600);
    options.open(path)?.write_all(text.as_bytes())?;
    Ok(())
}
