//! Sources are read in one state of the database: a connection keeps it until the program ends, and reads one source behind the other.
//! The server cannot give that state to a second connection, so that a source which is read while another one is has its own.

use std::collections::HashMap;
use std::path::{Path, PathBuf};
use std::sync::{Condvar, Mutex, PoisonError};
use std::time::Duration;

use mysql::Conn;
use mysql::prelude::Queryable as _;

use crate::formats::server::mariadb::connect::connect;
use crate::formats::server::mariadb::sql::failed;
use crate::records::error::Result;

/// The connections to a database that read it.
#[derive(Default)]
struct Readers {
    idle: Vec<Conn>,
    busy: usize,
}

static READERS: Mutex<Option<HashMap<PathBuf, Readers>>> = Mutex::new(None);
static ONE_IS_IDLE: Condvar = Condvar::new();

/// So long a source that was given up may take to let go of its connection.
const LETTING_GO: Duration = Duration::from_secs(1);

/// A connection that reads, and can change nothing; others may go on with it afterwards.
pub(super) struct Reading {
    conn: Option<Conn>,
    path: PathBuf,
}

impl Reading {
    /// Begins to read the database at `path`: it stays as it was when this program read it first.
    ///
    /// # Errors
    /// Where nobody answers.
    pub(super) fn begin(path: &Path) -> Result<Self> {
        let mut readers = READERS.lock().unwrap_or_else(PoisonError::into_inner);
        let of = |readers: &mut Option<HashMap<PathBuf, Readers>>| {
            let readers = readers.get_or_insert_default().entry(path.to_path_buf()).or_default();
            (readers.idle.is_empty(), readers.busy)
        };
        if let (true, 1..) = of(&mut readers) {
            let waited = ONE_IS_IDLE.wait_timeout_while(readers, LETTING_GO, |readers| of(readers).0);
            readers = waited.unwrap_or_else(PoisonError::into_inner).0;
        }
        let of_path = readers.get_or_insert_default().entry(path.to_path_buf()).or_default();
        let conn = match of_path.idle.pop() {
            Some(conn) => conn,
            None => begun(path)?,
        };
        of_path.busy += 1;
        Ok(Reading { conn: Some(conn), path: path.to_path_buf() })
    }

    pub(super) fn conn(&mut self) -> &mut Conn {
        self.conn.as_mut().expect("until it is dropped")
    }

    /// Gives up the connection, which may be broken.
    pub(super) fn give_up(mut self) {
        self.conn = None;
    }
}

impl Drop for Reading {
    fn drop(&mut self) {
        let mut readers = READERS.lock().unwrap_or_else(PoisonError::into_inner);
        if let Some(readers) = readers.as_mut().and_then(|readers| readers.get_mut(&self.path)) {
            readers.busy -= 1;
            readers.idle.extend(self.conn.take());
        }
        ONE_IS_IDLE.notify_all();
    }
}

fn begun(path: &Path) -> Result<Conn> {
    let mut conn = connect(path)?;
    let begin = "SET TRANSACTION ISOLATION LEVEL REPEATABLE READ; START TRANSACTION WITH CONSISTENT SNAPSHOT, READ ONLY";
    conn.query_drop(begin).map_err(|error| failed(&path.display().to_string(), &error))?;
    Ok(conn)
}
