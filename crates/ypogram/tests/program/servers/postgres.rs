//! PostgreSQL for a test.

use std::any::Any;
use std::path::PathBuf;
use std::process::{Child, Command, Stdio};
use std::time::{Duration, Instant};

use postgres::{Client, NoTls};
use tempfile::TempDir;

use super::{PASSWORD, TestServer, as_user};

/// A server with a database of its own; stopped and removed with this.
pub(crate) struct Postgres {
    child: Child,
    pub(crate) port: u16,
    folder: TempDir,
}

/// Where Debian puts the programs of the server, and where they are otherwise found.
fn programs() -> Option<PathBuf> {
    let versions = std::fs::read_dir("/usr/lib/postgresql").into_iter().flatten().flatten();
    let of_debian = versions.map(|version| version.path().join("bin")).max();
    let found = std::env::var_os("PATH")
        .into_iter()
        .flat_map(|path| std::env::split_paths(&path).collect::<Vec<_>>());
    of_debian.into_iter().chain(found).find(|folder| folder.join("initdb").is_file())
}

impl Postgres {
    /// None where PostgreSQL is not installed.
    pub(crate) fn start(settings: &[&str]) -> Option<Self> {
        let Some(programs) = programs() else {
            println!("PostgreSQL is not installed, so its tables are not tried: apt-get install postgresql");
            return None;
        };
        let folder = TempDir::new().unwrap();
        let data = folder.path().join("data");
        std::fs::write(folder.path().join("password"), PASSWORD).unwrap();
        let _ = Command::new("chown").args(["-R", "postgres"]).arg(folder.path()).output();
        let made = as_user("postgres", &programs.join("initdb"))
            .arg("-D")
            .arg(&data)
            .args(["-A", "scram-sha-256", "-U", "ada", "--encoding=UTF8", "--locale=C.UTF-8"])
            .arg(format!("--pwfile={}", folder.path().join("password").display()))
            .output()
            .unwrap();
        assert!(made.status.success(), "{}", String::from_utf8_lossy(&made.stderr));
        let port = std::net::TcpListener::bind("127.0.0.1:0").unwrap().local_addr().unwrap().port();
        let mut command = as_user("postgres", &programs.join("postgres"));
        command.arg("-D").arg(&data).args([
            "-p",
            &port.to_string(),
            "-c",
            "listen_addresses=127.0.0.1",
            "-c",
        ]);
        command.arg(format!("unix_socket_directories={}", folder.path().display())).args(["-c", "fsync=off"]);
        for setting in settings {
            command.args(["-c", setting]);
        }
        let child = command.stdout(Stdio::null()).stderr(Stdio::null()).spawn().unwrap();
        let server = Postgres { child, port, folder };
        let start = Instant::now();
        while server.try_client().is_err() {
            assert!(start.elapsed() < Duration::from_secs(60), "the server does not answer");
            std::thread::sleep(Duration::from_millis(50));
        }
        Some(server)
    }

    fn try_client(&self) -> Result<Client, postgres::Error> {
        let mut config = postgres::Config::new();
        config
            .host("127.0.0.1")
            .port(self.port)
            .user("ada")
            .dbname("postgres")
            .password(PASSWORD)
            .connect(NoTls)
    }

    pub(crate) fn client(&self) -> Client {
        self.try_client().unwrap()
    }
}

impl Drop for Postgres {
    fn drop(&mut self) {
        // Connections are cut, and it ends at once.
        let _ = Command::new("kill").arg("-QUIT").arg(self.child.id().to_string()).status();
        let _ = self.child.wait();
        let _ = &self.folder;
    }
}

impl TestServer for Postgres {
    fn name(&self, name: &str) -> String {
        format!("\"{}\"", name.replace('"', "\"\""))
    }

    fn address(&self) -> String {
        format!("postgres://ada@127.0.0.1:{}/postgres", self.port)
    }

    fn execute(&self, script: &str) -> Result<(), String> {
        self.client().batch_execute(script).map_err(|error| format!("{error:?}"))
    }

    fn ask(&self, query: &str) -> Vec<Vec<String>> {
        let texts = |message| match message {
            postgres::SimpleQueryMessage::Row(row) => {
                Some((0..row.len()).map(|nth| row.get(nth).unwrap_or("NULL").to_owned()).collect())
            }
            _ => None,
        };
        self.client().simple_query(query).unwrap().into_iter().filter_map(texts).collect()
    }

    fn hold(&self, script: &str) -> Box<dyn Any + Send> {
        let mut client = self.client();
        client.batch_execute(&format!("BEGIN; {script}")).unwrap();
        Box::new(client)
    }

    fn does(&self, doing: &str) -> bool {
        let running = "SELECT 1 FROM pg_stat_activity WHERE application_name = 'ypogram' AND state = 'active' AND query LIKE";
        !self.ask(&format!("{running} '{doing}%'")).is_empty()
    }

    fn cut(&self, doing: &str) -> bool {
        let cut = format!(
            "SELECT pg_terminate_backend(pid) FROM pg_stat_activity \
             WHERE application_name = 'ypogram' AND query LIKE '{doing}%'"
        );
        !self.ask(&cut).is_empty()
    }
}
