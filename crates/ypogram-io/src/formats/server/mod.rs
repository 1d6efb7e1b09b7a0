//! Tables of database servers: where they are, and one folder for each kind of server.

#[cfg(feature = "postgres")]
mod address;
#[cfg(feature = "postgres")]
pub(crate) mod postgres;
#[cfg(feature = "postgres")]
mod tls;
