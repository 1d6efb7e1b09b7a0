//! MariaDB for a test.

use std::any::Any;
use std::path::PathBuf;
use std::process::{Child, Command, Stdio};
use std::time::{Duration, Instant};

use mysql::prelude::Queryable as _;
use mysql::{Conn, OptsBuilder, Row, Value};
use tempfile::TempDir;

use super::{PASSWORD, TestServer, as_user};

pub(crate) struct MariaDb {
    child: Child,
    pub(crate) port: u16,
    folder: TempDir,
}

fn program(name: &str) -> Option<PathBuf> {
    let path = std::env::var_os("PATH").unwrap_or_default();
    let folders = std::env::split_paths(&path).chain([PathBuf::from("/usr/sbin")]);
    folders.map(|folder| folder.join(name)).find(|file| file.is_file())
}

impl MariaDb {
    /// None where MariaDB is not installed.
    pub(crate) fn start(settings: &[&str]) -> Option<Self> {
        let (Some(install), Some(server)) = (program("mariadb-install-db"), program("mariadbd")) else {
            println!("MariaDB is not installed, so its tables are not tried: apt-get install mariadb-server");
            return None;
        };
        let folder = TempDir::new().unwrap();
        let data = folder.path().join("data");
        let users = ["localhost", "%"].map(|host| {
            let password = PASSWORD.replace('\\', "\\\\");
            format!(
                "CREATE USER ada@'{host}' IDENTIFIED BY '{password}';\nGRANT ALL ON *.* TO ada@'{host}';\n"
            )
        });
        std::fs::write(folder.path().join("init"), format!("CREATE DATABASE list;\n{}", users.concat()))
            .unwrap();
        let _ = Command::new("chown").args(["-R", "mysql"]).arg(folder.path()).output();
        // Two servers would have tables of one name in a folder that they share.
        let made = as_user("mysql", &install)
            .env("TMPDIR", folder.path())
            .args(["--no-defaults", "--auth-root-authentication-method=normal", "--skip-test-db"])
            .arg(format!("--datadir={}", data.display()))
            .output()
            .unwrap();
        assert!(made.status.success(), "{}", String::from_utf8_lossy(&made.stderr));
        let port = std::net::TcpListener::bind("127.0.0.1:0").unwrap().local_addr().unwrap().port();
        let in_folder = |name: &str| folder.path().join(name).display().to_string();
        let child = as_user("mysql", &server)
            .env("TMPDIR", folder.path())
            .arg("--no-defaults")
            .arg(format!("--datadir={}", data.display()))
            .arg(format!("--socket={}", in_folder("socket")))
            .arg(format!("--pid-file={}", in_folder("pid")))
            .arg(format!("--init-file={}", in_folder("init")))
            .arg(format!("--port={port}"))
            .args(["--bind-address=127.0.0.1", "--innodb-flush-log-at-trx-commit=0"])
            .args(settings)
            .stdout(Stdio::null())
            .stderr(Stdio::null())
            .spawn()
            .unwrap();
        let server = MariaDb { child, port, folder };
        let start = Instant::now();
        while server.try_conn().is_err() {
            assert!(start.elapsed() < Duration::from_secs(60), "the server does not answer");
            std::thread::sleep(Duration::from_millis(50));
        }
        Some(server)
    }

    fn try_conn(&self) -> mysql::Result<Conn> {
        let options = OptsBuilder::new().ip_or_hostname(Some("127.0.0.1")).tcp_port(self.port);
        let options = options.user(Some("ada")).pass(Some(PASSWORD)).db_name(Some("list"));
        Conn::new(options.prefer_socket(false))
    }

    pub(crate) fn conn(&self) -> Conn {
        self.try_conn().unwrap()
    }
}

impl Drop for MariaDb {
    fn drop(&mut self) {
        let _ = Command::new("kill").arg("-KILL").arg(self.child.id().to_string()).status();
        let _ = self.child.wait();
        let _ = &self.folder;
    }
}

impl TestServer for MariaDb {
    fn name(&self, name: &str) -> String {
        format!("`{}`", name.replace('`', "``"))
    }

    fn address(&self) -> String {
        format!("mysql://ada@127.0.0.1:{}/list", self.port)
    }

    fn execute(&self, script: &str) -> Result<(), String> {
        let mut conn = self.conn();
        let mut results = conn.query_iter(script).map_err(|error| error.to_string())?;
        while let Some(rows) = results.iter() {
            for row in rows {
                row.map_err(|error| error.to_string())?;
            }
        }
        Ok(())
    }

    fn ask(&self, query: &str) -> Vec<Vec<String>> {
        let text = |value: Value| match value {
            Value::Bytes(bytes) => String::from_utf8_lossy(&bytes).into_owned(),
            _ => "NULL".to_owned(),
        };
        let rows: Vec<Row> = self.conn().query(query).unwrap();
        rows.into_iter().map(|row| row.unwrap().into_iter().map(text).collect()).collect()
    }

    fn hold(&self, script: &str) -> Box<dyn Any + Send> {
        let mut conn = self.conn();
        conn.query_drop(format!("START TRANSACTION; {script}")).unwrap();
        Box::new(conn)
    }

    fn does(&self, doing: &str) -> bool {
        let running = "SELECT id FROM information_schema.processlist WHERE user = 'ada' AND info LIKE";
        !self.ask(&format!("{running} '{doing}%'")).is_empty()
    }

    fn cut(&self, doing: &str) -> bool {
        let ids = format!(
            "SELECT id FROM information_schema.processlist WHERE user = 'ada' AND info LIKE '{doing}%' AND id <> CONNECTION_ID()"
        );
        let ids = self.ask(&ids);
        ids.iter().filter(|id| self.execute(&format!("KILL {}", id[0])).is_ok()).count() > 0
    }
}
