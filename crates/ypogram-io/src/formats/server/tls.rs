//! TLS: the server's certificate has to be signed by somebody who is trusted, and to be for its name.

use rustls::pki_types::CertificateDer;
use rustls::pki_types::pem::PemObject as _;
use rustls::{ClientConfig, RootCertStore};

use crate::records::error::{Error, Result};

/// What a connection is encrypted by. Trusted are those whose certificates are in the file `authorities`, else those of the system.
///
/// # Errors
/// Where the file cannot be read, or has no certificate.
pub(super) fn client(authorities: Option<&str>) -> Result<ClientConfig> {
    let mut trusted = RootCertStore::empty();
    match authorities {
        Some(file) => {
            let unusable = |what: &str| {
                Error::unusable(
                    format!("{file}: {what}"),
                    "sslrootcert names a file with certificates in PEM",
                )
            };
            let certificates =
                CertificateDer::pem_file_iter(file).map_err(|error| unusable(&error.to_string()))?;
            for certificate in certificates {
                let certificate = certificate.map_err(|error| unusable(&error.to_string()))?;
                trusted.add(certificate).map_err(|error| unusable(&error.to_string()))?;
            }
            if trusted.is_empty() {
                return Err(unusable("there is no certificate in it"));
            }
        }
        // Some that the system has may be broken; the others count.
        None => drop(trusted.add_parsable_certificates(rustls_native_certs::load_native_certs().certs)),
    }
    let provider = std::sync::Arc::new(rustls::crypto::ring::default_provider());
    let config = ClientConfig::builder_with_provider(provider)
        .with_safe_default_protocol_versions()
        .map_err(|error| Error::unusable(format!("TLS: {error}"), ""))?;
    Ok(config.with_root_certificates(trusted).with_no_client_auth())
}
