//! Tables of database servers: where they are, what all servers have in common, and one folder for each kind of them.

#[cfg(any(feature = "mysql", feature = "postgres"))]
mod address;
#[cfg(any(feature = "mysql", feature = "postgres"))]
mod cells;
#[cfg(any(feature = "mysql", feature = "postgres"))]
mod copy_text;
pub(crate) mod describe;
pub(crate) mod fill;
#[cfg(feature = "mysql")]
pub(crate) mod mariadb;
#[cfg(feature = "postgres")]
pub(crate) mod postgres;
#[cfg(any(feature = "mysql", feature = "postgres"))]
pub(crate) mod source;
#[cfg(any(feature = "mysql", feature = "postgres"))]
mod table_writer;
#[cfg(any(feature = "mysql", feature = "postgres"))]
mod tls;
