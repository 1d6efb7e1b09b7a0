//! The file of a register: one database of SQLite, in which each mailbox is once.

use std::cell::Cell;
use std::path::Path;
use std::time::Duration;

use rusqlite::{Connection, ErrorCode, OpenFlags, OptionalExtension as _, params};
use serde::Serialize;
use ypogram_core::SameMailbox;
use ypogram_io::{Error, Result};

/// `YPG` and the sort of file, by which a register is known.
const APPLICATION: i32 = 0x5950_4701;

/// The layout of the tables.
const VERSION: i32 = 1;

/// How long a process waits for others that write. They do so in short transactions.
const PATIENCE: Duration = Duration::from_secs(3600);

const TABLES: &str = "
    CREATE TABLE setting (name TEXT PRIMARY KEY, value TEXT NOT NULL) WITHOUT ROWID;
    CREATE TABLE mailbox (
        key TEXT PRIMARY KEY,
        address TEXT NOT NULL,
        state TEXT NOT NULL CHECK (state IN ('admitted', 'withdrawn')),
        since TEXT NOT NULL,
        source TEXT NOT NULL
    ) WITHOUT ROWID;
    CREATE TABLE forgotten (hash BLOB PRIMARY KEY, since TEXT NOT NULL) WITHOUT ROWID;";

/// A register that is open.
pub struct Store {
    database: Connection,
    name: String,
    /// The rule by which two addresses are one mailbox.
    rule: SameMailbox,
    /// The secret with which forgotten keys are hashed.
    secret: [u8; 32],
    /// Some mailbox is withdrawn and forgotten.
    has_forgotten: Cell<bool>,
}

/// What the register says of a mailbox.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
#[serde(rename_all = "kebab-case")]
pub enum Answer {
    /// It is there now.
    Admitted,
    /// It was there already.
    Known,
    /// It asked to be left alone.
    Withdrawn,
    /// Its address is not usable, or nobody knows whether it is.
    Refused,
}

impl Answer {
    /// All of them, in the order in which they are told.
    pub const ALL: [Answer; 4] = [Answer::Admitted, Answer::Known, Answer::Withdrawn, Answer::Refused];

    /// The word in outputs.
    pub const fn word(&self) -> &'static str {
        match self {
            Answer::Admitted => "admitted",
            Answer::Known => "known",
            Answer::Withdrawn => "withdrawn",
            Answer::Refused => "refused",
        }
    }
}

/// A mailbox of the register.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
pub struct Entry {
    /// Its address as it was admitted, in standard form.
    pub address: String,
    /// `admitted` or `withdrawn`.
    pub state: String,
    /// When, in UTC (RFC 3339).
    pub since: String,
    /// From where.
    pub source: String,
    /// What all spellings of it share.
    pub key: String,
}

/// A mailbox that is to be admitted.
#[derive(Clone, Copy, Debug)]
pub struct Admission<'a> {
    /// Its key under the rule of the register.
    pub key: &'a str,
    /// Its address in standard form.
    pub address: &'a str,
    /// Now, in UTC (RFC 3339).
    pub since: &'a str,
    /// From where it comes.
    pub source: &'a str,
}

impl Store {
    /// Makes a register at `path`, for its owner alone, in which two addresses are one mailbox by `rule`.
    ///
    /// # Errors
    /// Where something is there, or it cannot be made.
    pub fn create(path: &Path, rule: SameMailbox) -> Result<()> {
        let writing = |error: std::io::Error| Error::writing(path, &error);
        if path.exists() {
            return Err(Error::output(
                format!("{}: the file exists", path.display()),
                "a register is never replaced; choose another name, or move that file away",
            ));
        }
        let around = path.parent().filter(|around| !around.as_os_str().is_empty()).unwrap_or(Path::new("."));
        let file = tempfile::Builder::new().prefix(".register-").tempfile_in(around).map_err(writing)?;
        let name = path.display().to_string();
        let make = || {
            let database = Connection::open(file.path())?;
            database.execute_batch(TABLES)?;
            let mut secret = [0; 32];
            database.query_row("SELECT randomblob(32)", [], |row| {
                secret = row.get(0)?;
                Ok(())
            })?;
            let set = "INSERT INTO setting VALUES (?1, ?2)";
            database.execute(set, params!["rule", rule.word()])?;
            database.execute(set, params!["secret", hex(&secret)])?;
            database.execute_batch(&format!(
                "PRAGMA application_id = {APPLICATION}; PRAGMA user_version = {VERSION};"
            ))?;
            database.close().map_err(|(_, error)| error)
        };
        make().map_err(|error| failed(&name, &error))?;
        file.as_file().sync_all().map_err(writing)?;
        file.persist_noclobber(path).map_err(|error| writing(error.error)).map(drop)
    }

    /// Opens the register at `path`.
    ///
    /// # Errors
    /// Where there is none, it is none, or of a newer version.
    pub fn open(path: &Path) -> Result<Self> {
        let name = path.display().to_string();
        if !path.is_file() {
            let hint = format!("make one with ypogram register new {name}");
            return Err(Error::unusable(format!("{name}: there is no such register"), hint));
        }
        let flags = OpenFlags::SQLITE_OPEN_READ_WRITE | OpenFlags::SQLITE_OPEN_NO_MUTEX;
        let opened = Connection::open_with_flags(path, flags).and_then(|database| {
            database.busy_timeout(PATIENCE)?;
            let number = |pragma: &str| {
                database.query_row(&format!("PRAGMA {pragma}"), [], |row| row.get::<_, i32>(0))
            };
            let (application, version) = (number("application_id")?, number("user_version")?);
            Ok((database, application, version))
        });
        let (database, application, version) = match opened {
            Err(error) if error.sqlite_error_code() == Some(ErrorCode::NotADatabase) => {
                return Err(no_register(&name));
            }
            opened => opened.map_err(|error| failed(&name, &error))?,
        };
        if application != APPLICATION {
            return Err(no_register(&name));
        }
        if version > VERSION {
            return Err(Error::unusable(
                format!(
                    "{name}: the register is of version {version}, and this program knows version {VERSION}"
                ),
                "use a newer ypogram",
            ));
        }
        let read = || {
            // Others go on reading while one writes; where the file is write-protected it stays as it is.
            let _ = database.execute_batch("PRAGMA journal_mode = WAL; PRAGMA synchronous = FULL;");
            database.execute_batch(
                "PRAGMA cache_size = -131072; PRAGMA trusted_schema = OFF; PRAGMA secure_delete = ON;",
            )?;
            let setting = |name: &str| {
                database.query_row("SELECT value FROM setting WHERE name = ?1", [name], |row| {
                    row.get::<_, String>(0)
                })
            };
            let (rule, secret) = (setting("rule")?, setting("secret")?);
            Ok((rule, secret, any_forgotten(&database)?))
        };
        let (rule, secret, has_forgotten) = read().map_err(|error| failed(&name, &error))?;
        let rule = SameMailbox::ALL.into_iter().find(|known| known.word() == rule);
        let (Some(rule), Some(secret)) = (rule, unhex(&secret)) else { return Err(no_register(&name)) };
        Ok(Store { database, name, rule, secret, has_forgotten: Cell::new(has_forgotten) })
    }

    /// The rule by which two addresses are one mailbox.
    pub fn rule(&self) -> SameMailbox {
        self.rule
    }

    /// Begins to write; nobody else writes until [`commit`](Self::commit) or [`roll_back`](Self::roll_back).
    ///
    /// # Errors
    /// Where it cannot be written.
    pub fn begin(&self) -> Result<()> {
        self.run("BEGIN IMMEDIATE")?;
        // Others may have forgotten one since it was opened.
        self.has_forgotten.set(self.checked(any_forgotten(&self.database))?);
        Ok(())
    }

    /// Makes it count: it is there even where the power fails.
    ///
    /// # Errors
    /// Where it cannot be written.
    pub fn commit(&self) -> Result<()> {
        self.run("COMMIT")
    }

    /// Leaves nothing of what was removed, neither in the file nor in its log.
    ///
    /// # Errors
    /// Where the log cannot be written back.
    pub fn wipe(&self) -> Result<()> {
        self.run("PRAGMA wal_checkpoint(TRUNCATE)")
    }

    /// Takes back what was written since [`begin`](Self::begin).
    ///
    /// # Errors
    /// Where nothing was begun.
    pub fn roll_back(&self) -> Result<()> {
        self.run("ROLLBACK")
    }

    /// Admits a mailbox, unless it is there: looking and inserting are one act.
    ///
    /// # Errors
    /// Where the register cannot be read or written.
    pub fn admit(&self, admission: Admission<'_>) -> Result<(Answer, Option<Entry>)> {
        let Admission { key, address, since, source } = admission;
        if self.is_forgotten(key)? {
            return Ok((Answer::Withdrawn, None));
        }
        let insert = "INSERT INTO mailbox VALUES (?1, ?2, 'admitted', ?3, ?4) ON CONFLICT (key) DO NOTHING";
        let added = self
            .database
            .prepare_cached(insert)
            .and_then(|mut insert| insert.execute([key, address, since, source]));
        match self.checked(added)? {
            0 => self.look(key),
            _ => Ok((Answer::Admitted, None)),
        }
    }

    /// What is known of the mailbox of that key; [`Answer::Refused`] never, and [`Answer::Admitted`] where nothing is.
    ///
    /// # Errors
    /// Where the register cannot be read.
    pub fn look(&self, key: &str) -> Result<(Answer, Option<Entry>)> {
        if self.is_forgotten(key)? {
            return Ok((Answer::Withdrawn, None));
        }
        let select = "SELECT address, state, since, source, key FROM mailbox WHERE key = ?1";
        let found = self
            .database
            .prepare_cached(select)
            .and_then(|mut select| select.query_row([key], entry_of).optional());
        Ok(match self.checked(found)? {
            None => (Answer::Admitted, None),
            Some(entry) if entry.state == "withdrawn" => (Answer::Withdrawn, Some(entry)),
            Some(entry) => (Answer::Known, Some(entry)),
        })
    }

    /// Marks a mailbox as one that asked to be left alone: it is known for ever, and never admitted. Where it is to be forgotten, only a
    /// hash of its key is kept. Tells whether that is new.
    ///
    /// # Errors
    /// Where the register cannot be written.
    pub fn withdraw(&self, admission: Admission<'_>, forget: bool) -> Result<bool> {
        let Admission { key, address, since, source } = admission;
        if self.is_forgotten(key)? {
            return Ok(false);
        }
        if forget {
            self.execute("DELETE FROM mailbox WHERE key = ?1", params![key])?;
            let hash = self.hash(key);
            self.has_forgotten.set(true);
            return self.execute("INSERT INTO forgotten VALUES (?1, ?2)", params![hash, since]).map(|_| true);
        }
        let set = "INSERT INTO mailbox VALUES (?1, ?2, 'withdrawn', ?3, ?4)
                   ON CONFLICT (key) DO UPDATE SET state = 'withdrawn', since = ?3, source = ?4 WHERE state <> 'withdrawn'";
        self.execute(set, params![key, address, since, source]).map(|changed| changed > 0)
    }

    /// Removes a mailbox, be it withdrawn; tells whether it was there.
    ///
    /// # Errors
    /// Where the register cannot be written.
    pub fn remove(&self, key: &str) -> Result<bool> {
        let removed = self.execute("DELETE FROM mailbox WHERE key = ?1", params![key])?;
        let forgotten = self.execute("DELETE FROM forgotten WHERE hash = ?1", params![self.hash(key)])?;
        Ok(removed + forgotten > 0)
    }

    /// Calls `see` with every mailbox, in the order of their keys.
    ///
    /// # Errors
    /// Where the register cannot be read, and those of `see`.
    pub fn each(&self, mut see: impl FnMut(Entry) -> Result<()>) -> Result<()> {
        let select = "SELECT address, state, since, source, key FROM mailbox ORDER BY key";
        let mut select = self.checked(self.database.prepare(select))?;
        let mut rows = self.checked(select.query([]))?;
        while let Some(row) = self.checked(rows.next())? {
            see(self.checked(entry_of(row))?)?;
        }
        Ok(())
    }

    /// How many mailboxes are admitted, withdrawn, and withdrawn and forgotten.
    ///
    /// # Errors
    /// Where the register cannot be read.
    pub fn counts(&self) -> Result<[u64; 3]> {
        let count =
            |query: &str| self.checked(self.database.query_row(query, [], |row| row.get::<_, i64>(0)));
        let mailboxes = |state: &str| count(&format!("SELECT count(*) FROM mailbox WHERE state = '{state}'"));
        let counts =
            [mailboxes("admitted")?, mailboxes("withdrawn")?, count("SELECT count(*) FROM forgotten")?];
        Ok(counts.map(|count| u64::try_from(count).unwrap_or_default()))
    }

    /// The first and the last time at which one was admitted; none where none was.
    ///
    /// # Errors
    /// Where the register cannot be read.
    pub fn first_and_last(&self) -> Result<Option<(String, String)>> {
        let query = "SELECT min(since), max(since) FROM mailbox";
        let both = |row: &rusqlite::Row<'_>| {
            Ok(row.get::<_, Option<String>>(0)?.zip(row.get::<_, Option<String>>(1)?))
        };
        self.checked(self.database.query_row(query, [], both))
    }

    /// How many mailboxes come from each source, the most first.
    ///
    /// # Errors
    /// Where the register cannot be read.
    pub fn by_source(&self) -> Result<Vec<(String, u64)>> {
        let query = "SELECT source, count(*) FROM mailbox GROUP BY source ORDER BY count(*) DESC, source";
        let mut query = self.checked(self.database.prepare(query))?;
        let rows = query.query_map([], |row| Ok((row.get(0)?, row.get::<_, i64>(1)?.max(0) as u64)));
        self.checked(rows.and_then(Iterator::collect))
    }

    /// What SQLite finds wrong with the file; nothing where it is whole.
    ///
    /// # Errors
    /// Where it cannot be read at all.
    pub fn integrity(&self) -> Result<Vec<String>> {
        let mut check = self.checked(self.database.prepare("PRAGMA integrity_check"))?;
        let told: Vec<String> =
            self.checked(check.query_map([], |row| row.get(0)).and_then(Iterator::collect))?;
        Ok(told.into_iter().filter(|told| told != "ok").collect())
    }

    fn is_forgotten(&self, key: &str) -> Result<bool> {
        if !self.has_forgotten.get() {
            return Ok(false);
        }
        let select = "SELECT EXISTS (SELECT 1 FROM forgotten WHERE hash = ?1)";
        let there = self
            .database
            .prepare_cached(select)
            .and_then(|mut select| select.query_row([self.hash(key)], |row| row.get(0)));
        self.checked(there)
    }

    fn hash(&self, key: &str) -> Vec<u8> {
        blake3::keyed_hash(&self.secret, key.as_bytes()).as_bytes().to_vec()
    }

    fn execute(&self, sql: &str, values: impl rusqlite::Params) -> Result<usize> {
        self.checked(self.database.prepare_cached(sql).and_then(|mut statement| statement.execute(values)))
    }

    fn run(&self, sql: &str) -> Result<()> {
        self.checked(self.database.execute_batch(sql))
    }

    fn checked<T>(&self, result: rusqlite::Result<T>) -> Result<T> {
        result.map_err(|error| failed(&self.name, &error))
    }
}

fn entry_of(row: &rusqlite::Row<'_>) -> rusqlite::Result<Entry> {
    Ok(Entry {
        address: row.get(0)?,
        state: row.get(1)?,
        since: row.get(2)?,
        source: row.get(3)?,
        key: row.get(4)?,
    })
}

fn no_register(name: &str) -> Error {
    Error::unusable(
        format!("{name}: this is not a register"),
        format!(
            "make one with ypogram register new STORE; to compare with a table, ypogram compare --with {name}"
        ),
    )
}

/// The error of a database, and what to do.
fn failed(name: &str, error: &rusqlite::Error) -> Error {
    let text = error.to_string();
    match error.sqlite_error_code() {
        Some(ErrorCode::ReadOnly) => Error::output(
            format!("{name}: the register is write-protected"),
            "make it writable for you, with the folder around it",
        ),
        Some(ErrorCode::DiskFull) => {
            Error::output(format!("{name}: {text}"), "make room, and do it again: nothing of it was written")
        }
        Some(ErrorCode::DatabaseBusy | ErrorCode::DatabaseLocked) => Error::output(
            format!("{name}: another program has written to it for a long time"),
            "try again once it is done",
        ),
        Some(ErrorCode::DatabaseCorrupt | ErrorCode::NotADatabase) => Error::unusable(
            format!("{name}: {text}"),
            "see ypogram register verify, and take a copy from before",
        ),
        Some(ErrorCode::CannotOpen) => Error::output(
            format!("{name}: {text}"),
            "see whether it can be opened, and whether files can be made beside it: SQLite keeps a journal there",
        ),
        _ => {
            Error::output(format!("{name}: {text}"), "see whether its folder can be written to and has room")
        }
    }
}

fn hex(bytes: &[u8]) -> String {
    bytes.iter().map(|byte| format!("{byte:02x}")).collect()
}

fn unhex(text: &str) -> Option<[u8; 32]> {
    let mut bytes = [0; 32];
    if text.len() != 64 || !text.is_ascii() {
        return None;
    }
    for (place, byte) in bytes.iter_mut().enumerate() {
        *byte = u8::from_str_radix(&text[place * 2..place * 2 + 2], 16).ok()?;
    }
    Some(bytes)
}

/// Whether somebody was forgotten: where nobody was, no key has to be hashed.
fn any_forgotten(database: &Connection) -> rusqlite::Result<bool> {
    database.query_row("SELECT EXISTS (SELECT 1 FROM forgotten)", [], |row| row.get(0))
}
