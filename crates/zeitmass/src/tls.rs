//! Encryption by the server itself: with a certificate from a file, or with one it made for itself.

use std::net::{IpAddr, SocketAddr};
use std::path::{Path, PathBuf};
use std::sync::Arc;

use anyhow::{Context, Result, bail};
use rustls::ServerConfig;
use rustls::pki_types::pem::PemObject;
use rustls::pki_types::{CertificateDer, PrivateKeyDer};
use sha2::{Digest, Sha256};
use tokio_rustls::TlsAcceptor;

/// Names of the files with the server's own certificate and its key, in the data folder.
const OWN_CERTIFICATE: &str = "own-certificate.pem";
const OWN_KEY: &str = "own-key.pem";

/// What encrypts, and by what a person tells that it is this server.
pub(crate) struct Encryption {
    pub acceptor: TlsAcceptor,
    /// SHA-256 of a certificate the server made itself, as browsers show it; none of one from a file, which somebody vouches for.
    pub fingerprint: Option<String>,
}

/// Encryption with a certificate from files in PEM form: the certificate first, then those of whoever vouches for it.
pub(crate) fn from_files(certificate: &Path, key: &Path) -> Result<Encryption> {
    let shown = certificate.display();
    let chain = CertificateDer::pem_file_iter(certificate).with_context(|| format!("{shown} cannot be read"))?;
    let chain = chain.collect::<Result<Vec<_>, _>>().with_context(|| format!("{shown} holds no certificate"))?;
    if chain.is_empty() {
        bail!("{shown} holds no certificate");
    }
    let key = PrivateKeyDer::from_pem_file(key).with_context(|| format!("{} holds no key", key.display()))?;
    let provider = Arc::new(rustls::crypto::ring::default_provider());
    let config = ServerConfig::builder_with_provider(provider)
        .with_safe_default_protocol_versions()?
        .with_no_client_auth()
        .with_single_cert(chain, key)
        .context("the certificate and the key do not belong together")?;
    Ok(Encryption { acceptor: TlsAcceptor::from(Arc::new(config)), fingerprint: None })
}

/// Encryption with a certificate of the server's own, made when there is none, or when it is for other names.
pub(crate) fn own(folder: &Path, address: SocketAddr, names: &[String]) -> Result<Encryption> {
    let [certificate, key] = [OWN_CERTIFICATE, OWN_KEY].map(|name| folder.join(name));
    let wanted = names_of(address, names);
    let beside = |path: &PathBuf| path.with_extension("names");
    // Tablets that were told to trust it are not asked again for the same names.
    let kept = std::fs::read_to_string(beside(&certificate)).is_ok_and(|kept| kept == wanted.join("\n"));
    if !(kept && certificate.exists() && key.exists()) {
        let made = rcgen::generate_simple_self_signed(wanted.clone()).context("no certificate could be made")?;
        private(&key, made.signing_key.serialize_pem().as_bytes())?;
        private(&certificate, made.cert.pem().as_bytes())?;
        private(&beside(&certificate), wanted.join("\n").as_bytes())?;
    }
    let encryption = from_files(&certificate, &key)?;
    let first = CertificateDer::pem_file_iter(&certificate)?.next().context("there is no certificate")??;
    let pairs: Vec<String> = Sha256::digest(&first).iter().map(|byte| format!("{byte:02X}")).collect();
    Ok(Encryption { fingerprint: Some(pairs.join(":")), ..encryption })
}

/// The names a certificate is for: those that were given, the address that is listened at, and the machine itself.
fn names_of(address: SocketAddr, names: &[String]) -> Vec<String> {
    let mut all: Vec<String> = names.to_vec();
    let ip = address.ip();
    if !ip.is_unspecified() {
        all.push(ip.to_string());
    }
    all.extend(["localhost".to_owned(), IpAddr::from([127, 0, 0, 1]).to_string()]);
    let mut once = Vec::new();
    for name in all {
        if !once.contains(&name) {
            once.push(name);
        }
    }
    once
}

/// Writes a file that only its owner can read.
fn private(path: &Path, content: &[u8]) -> Result<()> {
    let mut options = std::fs::OpenOptions::new();
    options.write(true).create(true).truncate(true);
    #[cfg(unix)]
    std::os::unix::fs::OpenOptionsExt::mode(&mut options, 0o600);
    let written = options.open(path).and_then(|mut file| std::io::Write::write_all(&mut file, content));
    written.with_context(|| format!("{} cannot be written", path.display()))
}
