//! Connections: encrypted, with user and password from where they are kept.

use std::path::Path;
use std::time::Duration;

use mysql::prelude::Queryable as _;
use mysql::{Conn, DriverError, Opts, OptsBuilder, SslOpts};

use crate::formats::server::address::{Encryption, ServerAddress};
use crate::formats::server::mariadb::option_file::client_options;
use crate::formats::server::mariadb::sql::{failed, told};
use crate::formats::server::tls;
use crate::records::error::{Error, Result};

/// Times are in UTC; and the server waits for a program that has something else to do.
const SETTINGS: &str =
    "SET time_zone = '+00:00', net_write_timeout = 86400, net_read_timeout = 86400, wait_timeout = 86400";

/// Connects to the database at `path`.
///
/// # Errors
/// Where the address is not understood, nobody answers there, or the user is not let in.
pub(super) fn connect(path: &Path) -> Result<Conn> {
    let name = path.display().to_string();
    let address = ServerAddress::of(path)?;
    let options = options(&address).map_err(|what| {
        let hint = "write it as mysql://user@host:port/database#table";
        Error::unusable(format!("{name}: {what}"), hint)
    })?;
    // A file without certificates, or what is none, is told before anything is sent.
    if let Some(file) = &address.authorities {
        tls::client(Some(file))?;
    }
    let is_here = options.get_socket().is_some()
        || matches!(&*options.get_ip_or_hostname(), "localhost" | "127.0.0.1" | "[::1]");
    let encrypted = || {
        let file = address.authorities.clone().map(std::path::PathBuf::from);
        let encrypted = SslOpts::default().with_root_cert_path(file);
        Conn::new(OptsBuilder::from_opts(options.clone()).ssl_opts(encrypted))
    };
    let connected = match (&address.encryption, is_here) {
        (Encryption::Off, _) => Conn::new(options.clone()),
        (Encryption::Usual, true) => match encrypted() {
            Err(mysql::Error::DriverError(DriverError::TlsNotSupported)) => Conn::new(options.clone()),
            connected => connected,
        },
        (Encryption::Usual, false) | (Encryption::Required, _) => encrypted(),
    };
    let mut conn = connected.map_err(|error| not_connected(&name, &error))?;
    conn.query_drop(SETTINGS).map_err(|error| failed(&name, &error))?;
    if address.encryption == Encryption::Required {
        refuse_plain(&mut conn, &name)?;
    }
    Ok(conn)
}

/// Makes sure that the server sees an encrypted connection too.
fn refuse_plain(conn: &mut Conn, name: &str) -> Result<()> {
    let row: Option<(String, String)> =
        conn.query_first("SHOW STATUS LIKE 'Ssl_cipher'").map_err(|error| failed(name, &error))?;
    match row {
        Some((_, cipher)) if !cipher.is_empty() => Ok(()),
        _ => Err(Error::unusable(
            format!("{name}: the connection is not encrypted"),
            "leave the socket out of the address, or sslmode where the way to the server is safe",
        )),
    }
}

/// What an address says, filled in from the environment and the option file.
fn options(address: &ServerAddress) -> std::result::Result<Opts, String> {
    let (_, rest) = address.base.split_once("://").unwrap_or_default();
    let (authority, database) = rest.split_once('/').unwrap_or((rest, ""));
    if database.is_empty() {
        return Err("no database is named".to_owned());
    }
    let set = |name: &str| std::env::var(name).ok().filter(|value| !value.is_empty());
    let kept = client_options();
    let (user, host) = authority.rsplit_once('@').unwrap_or(("", authority));
    let user = if user.is_empty() { String::new() } else { format!("{user}@") };
    let host = match host.is_empty() {
        true => set("MYSQL_HOST").or_else(|| kept.get("host").cloned()).unwrap_or_else(|| "localhost".into()),
        false => host.to_owned(),
    };
    let read =
        Opts::from_url(&format!("mysql://{user}{host}/{database}")).map_err(|error| error.to_string())?;
    let has_port = host.rsplit_once(':').is_some_and(|(_, port)| port.bytes().all(|b| b.is_ascii_digit()));
    let mut options = OptsBuilder::from_opts(read.clone()).prefer_socket(false);
    if !has_port && let Some(port) = set("MYSQL_TCP_PORT").or_else(|| kept.get("port").cloned()) {
        options = options.tcp_port(port.parse().map_err(|_| format!("‘{port}’ is no port"))?);
    }
    if read.get_user().is_none() {
        options = options.user(kept.get("user").cloned().or_else(|| set("USER")));
    }
    options = options.pass(set("MYSQL_PWD").or_else(|| kept.get("password").cloned()));
    for option in &address.options {
        options = match option.split_once('=') {
            Some(("socket", file)) => options.socket(Some(file)),
            Some(("connect_timeout", seconds)) => match seconds.parse() {
                Ok(seconds) => options.tcp_connect_timeout(Some(Duration::from_secs(seconds))),
                Err(_) => return Err(format!("‘{seconds}’ is no number of seconds")),
            },
            _ => {
                return Err(format!(
                    "‘{option}’ is not known; known are sslmode, sslrootcert, socket, connect_timeout"
                ));
            }
        };
    }
    Ok(options.into())
}

fn not_connected(name: &str, error: &mysql::Error) -> Error {
    let text = told(error);
    let hint = match error {
        mysql::Error::MySqlError(_) => return failed(name, error),
        mysql::Error::DriverError(DriverError::TlsNotSupported) => {
            "the server knows no TLS; where the way to it is safe, add ?sslmode=disable to the address"
        }
        _ if text.contains("certificate") || text.contains("UnknownIssuer") => {
            "the server does not prove who it is; name the file of who signed its certificate: ?sslrootcert=FILE"
        }
        _ => "see whether the server runs there, and whether host and port are right",
    };
    Error::unusable(format!("{name}: {text}"), hint)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn addresses_say_where_and_who() {
        let read = |address: &str| options(&ServerAddress::of(address.as_ref()).unwrap());
        for (address, host, port, user, database) in [
            ("mysql://ada@db.example:3307/list", "db.example", 3307, Some("ada"), "list"),
            ("mariadb://ada@db.example:3306/list?connect_timeout=5", "db.example", 3306, Some("ada"), "list"),
            ("mysql://a%40b@[::1]:3307/my%20list", "[::1]", 3307, Some("a@b"), "my list"),
            ("mysql://ada@127.0.0.1:1/list?sslmode=disable", "127.0.0.1", 1, Some("ada"), "list"),
        ] {
            let options = read(address).unwrap();
            assert_eq!(options.get_ip_or_hostname(), host, "{address}");
            assert_eq!((options.get_tcp_port(), options.get_user()), (port, user), "{address}");
            assert_eq!(options.get_db_name(), Some(database), "{address}");
            // With a socket in between nothing would be encrypted, however it is asked for.
            assert!(!options.get_prefer_socket() && options.get_socket().is_none(), "{address}");
        }
        assert_eq!(read("mysql://h/list?socket=/run/s").unwrap().get_socket(), Some("/run/s"));
        for (address, told) in [
            ("mysql://ada@h", "no database is named"),
            ("mysql://ada@h/", "no database is named"),
            ("mysql://h/list?fast=1", "‘fast=1’ is not known"),
            ("mysql://h/list?connect_timeout=soon", "‘soon’ is no number of seconds"),
            ("mysql://h:port/list", "port"),
        ] {
            let error = read(address).map(|_| ()).unwrap_err();
            assert!(error.contains(told), "{address}: {error}");
        }
    }
}
