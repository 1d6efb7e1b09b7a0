//! Connections: encrypted, with the password from where it is kept, and for sources in one state of the database.

use std::collections::HashMap;
use std::path::Path;
use std::str::FromStr as _;
use std::sync::{Mutex, PoisonError};

use postgres::config::{Host, SslMode};
use postgres::{Client, Config, NoTls};
use tokio_postgres_rustls::MakeRustlsConnect;

use crate::formats::server::address::{Encryption, ServerAddress};
use crate::formats::server::postgres::password::{self, Who};
use crate::formats::server::postgres::sql::{failed, whole};
use crate::formats::server::tls;
use crate::records::error::{Error, Result};

/// Connects to the database at `path`.
///
/// # Errors
/// Where the address is not understood, nobody answers there, or the user is not let in.
pub(super) fn connect(path: &Path) -> Result<Client> {
    let name = path.display().to_string();
    let address = ServerAddress::of(path)?;
    let mut config = Config::from_str(&url(&address)).map_err(|error| {
        let hint = "write it as postgres://user@host:port/database#table";
        Error::unusable(format!("{name}: {}", whole(&error)), hint)
    })?;
    settle(&mut config, &address);
    let connected = match config.get_ssl_mode() {
        SslMode::Disable => config.connect(NoTls),
        _ => config.connect(MakeRustlsConnect::new(tls::client(address.authorities.as_deref())?)),
    };
    let mut client = connected.map_err(|error| not_connected(&name, &error))?;
    // What is read and written is text, whatever the server is set to.
    let settings = "SET datestyle = 'ISO, YMD'; SET timezone = 'UTC'; SET bytea_output = 'hex'; SET extra_float_digits = 3; \
                    SET intervalstyle = 'postgres'; SET client_encoding = 'UTF8'; SET synchronize_seqscans = off; \
                    SET max_parallel_workers_per_gather = 0";
    client.batch_execute(settings).map_err(|error| failed(&name, &error))?;
    Ok(client)
}

fn url(address: &ServerAddress) -> String {
    match address.options.is_empty() {
        true => address.base.clone(),
        false => format!("{}?{}", address.base, address.options.join("&")),
    }
}

/// Fills in what the address leaves out, as PostgreSQL's own programs do.
fn settle(config: &mut Config, address: &ServerAddress) {
    let set = |name: &str| std::env::var(name).ok().filter(|value| !value.is_empty());
    if config.get_hosts().is_empty() {
        config.host(set("PGHOST").as_deref().unwrap_or("localhost"));
    }
    if let (true, Some(port)) =
        (config.get_ports().is_empty(), set("PGPORT").and_then(|port| port.parse().ok()))
    {
        config.port(port);
    }
    if let (None, Some(user)) = (config.get_user(), set("PGUSER")) {
        config.user(&user);
    }
    config.application_name("ypogram");
    let is_here = config.get_hosts().iter().all(|host| match host {
        Host::Tcp(host) => matches!(host.as_str(), "localhost" | "127.0.0.1" | "::1"),
        #[cfg(unix)]
        Host::Unix(_) => true,
    });
    config.ssl_mode(match (&address.encryption, is_here) {
        (Encryption::Off, _) => SslMode::Disable,
        (Encryption::Usual, true) => SslMode::Prefer,
        (Encryption::Usual, false) | (Encryption::Required, _) => SslMode::Require,
    });
    let host = match config.get_hosts().first() {
        Some(Host::Tcp(host)) => host.clone(),
        _ => "localhost".to_owned(),
    };
    let user = config.get_user().unwrap_or_default().to_owned();
    let who = Who {
        host: &host,
        port: config.get_ports().first().copied().unwrap_or(5432),
        database: config.get_dbname().unwrap_or(&user),
        user: &user,
    };
    if let Some(password) = password::find(&who) {
        config.password(password);
    }
}

fn not_connected(name: &str, error: &postgres::Error) -> Error {
    if error.as_db_error().is_some() {
        return failed(name, error);
    }
    let text = whole(error);
    let hint = match () {
        () if text.contains("does not support TLS") => {
            "the server knows no TLS; where the way to it is safe, add ?sslmode=disable to the address"
        }
        () if text.contains("certificate") => {
            "the server does not prove who it is; name the file of who signed its certificate: ?sslrootcert=FILE"
        }
        () if text.contains("password missing") => {
            "give the password with PGPASSWORD or in a password file; docs/databases.md"
        }
        () => "see whether the server runs there, and whether host and port are right",
    };
    Error::unusable(format!("{name}: {text}"), hint)
}

/// The states of databases in which sources are read, by address; each is kept by a connection until the program ends.
static SNAPSHOTS: Mutex<Option<HashMap<String, (Client, String)>>> = Mutex::new(None);

/// Begins to read a database: nothing can be changed, and it stays as it was when this program read it first.
///
/// # Errors
/// Where the server does not allow it.
pub(super) fn begin_reading(client: &mut Client, path: &Path) -> Result<()> {
    const BEGIN: &str = "BEGIN TRANSACTION ISOLATION LEVEL REPEATABLE READ READ ONLY";
    let name = path.display().to_string();
    let failed = |error: postgres::Error| failed(&name, &error);
    let mut snapshots = SNAPSHOTS.lock().unwrap_or_else(PoisonError::into_inner);
    let snapshots = snapshots.get_or_insert_default();
    if !snapshots.contains_key(&name) {
        let mut keeper = connect(path)?;
        keeper.batch_execute(BEGIN).map_err(failed)?;
        let id: String = keeper.query_one("SELECT pg_export_snapshot()", &[]).map_err(failed)?.get(0);
        snapshots.insert(name.clone(), (keeper, id));
    }
    let (_, id) = &snapshots[&name];
    client.batch_execute(&format!("{BEGIN}; SET TRANSACTION SNAPSHOT '{id}'")).map_err(failed)
}
