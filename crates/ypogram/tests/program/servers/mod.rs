//! Servers that tests start, and the program run with their password where it looks for one.

#[cfg(feature = "mysql")]
mod mariadb;
#[cfg(feature = "postgres")]
mod postgres;

use std::any::Any;
use std::path::Path;
use std::process::Command;
use std::time::{Duration, Instant};

#[cfg(feature = "mysql")]
pub(crate) use mariadb::MariaDb;
#[cfg(feature = "postgres")]
pub(crate) use postgres::Postgres;

use crate::{Place, Run};

pub(crate) const PASSWORD: &str = "owl-7:\\x";

/// A server with a database of its own; stopped and removed with this.
pub(crate) trait TestServer: Sync {
    /// A name as its SQL has it.
    fn name(&self, name: &str) -> String;
    /// The address of its database.
    fn address(&self) -> String;
    /// The same with a table behind it.
    fn at(&self, table: &str) -> String {
        format!("{}#{table}", self.address())
    }
    fn execute(&self, script: &str) -> Result<(), String>;
    /// The rows of a query as texts.
    fn ask(&self, query: &str) -> Vec<Vec<String>>;
    /// Runs a script in a transaction that goes on until what this gives is dropped.
    fn hold(&self, script: &str) -> Box<dyn Any + Send>;
    /// Whether the program runs a statement which begins so.
    fn does(&self, doing: &str) -> bool;
    /// Cuts the program's connections that run a statement which begins so; says whether there was one.
    fn cut(&self, doing: &str) -> bool;
}

/// The servers that are installed.
pub(crate) fn all() -> Vec<Box<dyn TestServer>> {
    let mut servers: Vec<Box<dyn TestServer>> = Vec::new();
    #[cfg(feature = "postgres")]
    servers.extend(Postgres::start(&[]).map(|server| Box::new(server) as Box<dyn TestServer>));
    #[cfg(feature = "mysql")]
    servers.extend(MariaDb::start(&[]).map(|server| Box::new(server) as Box<dyn TestServer>));
    servers
}

/// A server does not run as root: then it runs as the user of its own.
fn as_user(user: &str, program: &Path) -> Command {
    let is_root =
        Command::new("id").arg("-u").output().is_ok_and(|output| output.stdout.trim_ascii() == b"0");
    if !is_root {
        return Command::new(program);
    }
    // It takes the place of what it runs, so that signals reach that.
    let mut command = Command::new("setpriv");
    command.arg(format!("--reuid={user}")).arg(format!("--regid={user}")).arg("--init-groups").arg(program);
    command
}

pub(crate) fn run(place: &Place, words: &[&str]) -> Run {
    run_with(place, words, &[("PGPASSWORD", PASSWORD), ("MYSQL_PWD", PASSWORD)])
}

pub(crate) fn run_with(place: &Place, words: &[&str], variables: &[(&str, &str)]) -> Run {
    let output = assert_cmd::Command::cargo_bin("ypogram")
        .unwrap()
        .current_dir(place.path("."))
        .env_remove("PGPASSWORD")
        .env_remove("MYSQL_PWD")
        .envs(variables.iter().copied())
        .args(words)
        .output()
        .unwrap();
    let text = |bytes| String::from_utf8(bytes).unwrap();
    Run { code: output.status.code().unwrap_or(-1), stdout: text(output.stdout), stderr: text(output.stderr) }
}

/// Runs the program, and calls `meanwhile` again and again until it says that it did what it was to do.
pub(crate) fn run_while(place: &Place, words: &[&str], meanwhile: impl Fn() -> bool) -> Run {
    std::thread::scope(|scope| {
        let job = scope.spawn(|| run(place, words));
        let start = Instant::now();
        while !meanwhile() {
            assert!(start.elapsed() < Duration::from_secs(60) && !job.is_finished(), "{words:?}");
            std::thread::sleep(Duration::from_millis(1));
        }
        job.join().unwrap()
    })
}
