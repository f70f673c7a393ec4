//! A certificate of one's own, so that the link is encrypted and browsers trust the address with all that they keep for such.

use std::path::{Path, PathBuf};

use rustls::ServerConfig;
use rustls::pki_types::pem::PemObject;
use rustls::pki_types::{CertificateDer, PrivateKeyDer};
use thiserror::Error;

/// Why a certificate can't be used.
#[derive(Debug, Error)]
pub enum TlsError {
    /// A file is not there or holds something else.
    #[error("{0} holds no {1} in PEM form: {2}")]
    Pem(PathBuf, &'static str, rustls::pki_types::pem::Error),
    /// The file of certificates is empty.
    #[error("{0} holds no certificate in PEM form")]
    Empty(PathBuf),
    /// Certificate and key don't belong together.
    #[error("certificate and key don't fit: {0}")]
    Rustls(#[from] rustls::Error),
}

/// Reads a chain of certificates and its private key.
///
/// # Errors
/// [`TlsError`], as a sentence for whoever gave the files.
pub fn read(certificate: &Path, key: &Path) -> Result<ServerConfig, TlsError> {
    let pem = |path: &Path, what| {
        let path = path.to_owned();
        move |error| TlsError::Pem(path, what, error)
    };
    let chain: Vec<CertificateDer<'static>> = CertificateDer::pem_file_iter(certificate)
        .and_then(Iterator::collect)
        .map_err(pem(certificate, "certificate"))?;
    if chain.is_empty() {
        return Err(TlsError::Empty(certificate.to_owned()));
    }
    let key = PrivateKeyDer::from_pem_file(key).map_err(pem(key, "private key"))?;
    let provider = std::sync::Arc::new(rustls::crypto::ring::default_provider());
    Ok(ServerConfig::builder_with_provider(provider)
        .with_safe_default_protocol_versions()?
        .with_no_client_auth()
        .with_single_cert(chain, key)?)
}
