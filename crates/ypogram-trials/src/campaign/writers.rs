//! Every command that writes, with what it needs to be there before.

use std::path::{Path, PathBuf};
use std::process::{Child, Stdio};
use std::time::{Duration, Instant};

use tempfile::TempDir;

use crate::campaign::Outcome;
use crate::program::{command, run, said};

/// A call that writes, and the calls before it.
#[derive(Debug)]
pub struct Writer {
    /// Calls that make what is there before.
    pub before: &'static [&'static str],
    /// The call itself, which can be repeated.
    pub call: &'static str,
    /// Its outputs are replaced together or not at all.
    pub is_whole: bool,
}

const fn writer(before: &'static [&'static str], call: &'static str) -> Writer {
    Writer { before, call, is_whole: false }
}

const fn whole(before: &'static [&'static str], call: &'static str) -> Writer {
    Writer { before, call, is_whole: true }
}

/// All of them.
pub const WRITERS: [Writer; 24] = [
    whole(&["clean list.csv -o out"], "clean list.csv -o out --force"),
    whole(&["clean list.csv -o out.xlsx"], "clean list.csv -o out.xlsx --force"),
    whole(&["clean list.csv -o out"], "settle out --take likely"),
    writer(&["check list.csv -q -o rows.csv"], "check list.csv -o rows.csv --force"),
    writer(&["check list.csv -q -o rows.xlsx"], "check list.csv -o rows.xlsx --force"),
    writer(&["check list.csv -q -o rows.jsonl"], "check list.csv -o rows.jsonl --force"),
    writer(&["check list.csv -q -o rows.sqlite#list"], "check list.csv -o rows.sqlite#list --force"),
    writer(&[], "check list.csv -o rows.csv --sort-by note --memory 1K --force"),
    writer(
        &["dedupe list.csv -q -o one.csv --dropped two.csv"],
        "dedupe list.csv -o one.csv --dropped two.csv --force",
    ),
    writer(
        &["dedupe list.csv -q --groups groups.csv"],
        "dedupe list.csv --groups groups.csv --memory 1K --force",
    ),
    writer(&["split list.csv -q -o parts.csv"], "split list.csv -o parts.csv --force"),
    writer(&["extract list.csv -q -o found.csv"], "extract list.csv --unique -o found.csv --force"),
    whole(
        &["compare list.csv --with known.csv -o held"],
        "compare list.csv --with known.csv -o held --force",
    ),
    writer(&["survey list.csv -q --save s.json"], "survey list.csv --save s.json --html s.html --force"),
    writer(&["domains list.csv -q -o domains.csv"], "domains list.csv -o domains.csv --force"),
    writer(&["links list.csv -q -o graph.dot"], "links list.csv -o graph.dot --force"),
    writer(
        &["redact list.csv --as mask -q -o masked.csv"],
        "redact list.csv --as mask -o masked.csv --force",
    ),
    writer(&["bounces back.mbox -q -o back.csv"], "bounces back.mbox -o back.csv --force"),
    writer(&[], "lists add own.txt cleo.example dora.example"),
    writer(&[], "lists remove own.txt ada.example"),
    writer(
        &["rules export --for html -o form.html"],
        "rules export --for html -o form.html --test-values values.txt --force",
    ),
    writer(&["run j -q"], "run j --force"),
    writer(&["register new all.register"], "register add all.register list.csv --admissible-only"),
    writer(
        &["register new all.register", "register add all.register known.csv -q"],
        "register withdraw all.register known.csv",
    ),
];

const JOB: &str = "version = 2\n[[job.j.step]]\ndo = \"clean\"\nsource = [\"list.csv\"]\noutput = \"job-out\"\n\
    [[job.j.step]]\ndo = \"check\"\nsource = [\"clean.kept\"]\nprefix = \"new_\"\noutput = \"job-rows.csv\"\n";

const BACK: &str = "From daemon@mill.org Mon Nov 30 10:00:00 2026\nFrom: daemon@mill.org\nSubject: Undelivered\nContent-Type: multipart/report; \
    report-type=delivery-status; boundary=x\n\n--x\nContent-Type: message/delivery-status\n\nReporting-MTA: dns; mill.org\n\n\
    Final-Recipient: rfc822; ada@mill.org\nAction: failed\nStatus: 5.1.1\n\n--x--\n\n";

/// The list before and after.
fn list(rows: usize, note: &str) -> String {
    let row = |nth: usize| match nth % 7 {
        0 => format!("broken@@{nth},{note}\n"),
        1 => format!("ada{nth}@gmial.com,{note}\n"),
        2 => format!(",{note} ada{nth}@h-works.org\n"),
        _ => format!("ada{}@h-works.org,{note}\n", nth / 2),
    };
    format!("email,note\n{}", (0..rows).map(row).collect::<String>())
}

impl Writer {
    /// Makes in `folder` what is there before the call, for lists of so many rows.
    ///
    /// # Panics
    /// Where a call before it fails.
    pub fn prepare(&self, folder: &Path, rows: usize) {
        let write = |name: &str, text: &str| std::fs::write(folder.join(name), text).expect("written");
        std::fs::create_dir_all(folder.join("tmp")).expect("made");
        write("ypogram.toml", JOB);
        write("list.csv", &list(rows, "old"));
        write("known.csv", &list(rows / 2, "known"));
        write("own.txt", "ada.example\nbea.example\n");
        write("back.mbox", &BACK.repeat(rows / 20 + 1));
        for call in self.before {
            let made = run(folder, call);
            assert!(matches!(made.status.code(), Some(0 | 1)), "{call}: {}", said(&made));
        }
        write("list.csv", &list(rows + 20, "new"));
        write("back.mbox", &(BACK.replace("ada@", "zoe@") + &BACK.repeat(rows / 20 + 1)));
    }

    /// What can be seen of its outputs in `folder`: the files that are not its sources, what a killed run may leave apart.
    pub fn state(&self, folder: &Path) -> State {
        if self.call.starts_with("register") {
            // Entries have the moment in which they came in.
            let listed = run(folder, "register list all.register").stdout;
            let listed = String::from_utf8_lossy(&listed).into_owned();
            let rows = listed.lines().map(|row| row.split(',').take(2).collect::<Vec<_>>().join(","));
            return vec![("all.register".into(), rows.collect::<Vec<_>>().join("\n").into_bytes())];
        }
        let is_output = |path: &PathBuf| {
            let name = path.to_string_lossy();
            let is_source =
                ["ypogram.toml", "list.csv", "known.csv", "back.mbox"].iter().any(|source| name == *source);
            let is_private = is_litter(path) || name.starts_with("tmp") || name.contains(".ypogram");
            !is_source && !is_private && !name.ends_with("receipt.json")
        };
        let within = |path: PathBuf| path.strip_prefix(folder).expect("below").to_path_buf();
        let all = crate::program::files(folder).into_iter().map(|(path, bytes)| {
            // A database counts its changes; what is in its tables can be compared.
            let bytes = if path.extension().is_some_and(|ending| ending == "sqlite") {
                rows_of(&path)
            } else {
                bytes
            };
            (within(path), bytes)
        });
        all.filter(|(path, _)| is_output(path)).collect()
    }
}

/// What can be seen of outputs.
pub type State = Vec<(PathBuf, Vec<u8>)>;

/// A writer with all that is known of a run that nothing disturbs.
#[derive(Debug)]
pub struct Tried<'w> {
    /// The writer.
    pub writer: &'w Writer,
    template: TempDir,
    /// What is there before.
    pub old: State,
    /// What is there afterwards.
    pub new: State,
    /// How long it takes.
    pub takes: Duration,
}

impl<'w> Tried<'w> {
    /// Prepares `writer` for lists of so many rows, and runs it once.
    ///
    /// # Panics
    /// Where a call before it fails.
    pub fn prepare(writer: &'w Writer, rows: usize, outcome: &mut Outcome) -> Self {
        let template = tempfile::tempdir().expect("a temporary folder");
        writer.prepare(template.path(), rows);
        let old = writer.state(template.path());
        let tried = Tried { writer, template, old, new: State::new(), takes: Duration::ZERO };
        let folder = tried.folder();
        let begun = Instant::now();
        let made = started(folder.path(), writer.call).wait_with_output().expect("it ends");
        let takes = begun.elapsed();
        let new = writer.state(folder.path());
        outcome.expect(matches!(made.status.code(), Some(0 | 1)) && new != tried.old, || {
            format!("{} changes nothing: {}", writer.call, said(&made))
        });
        Tried { new, takes, ..tried }
    }

    /// A folder of its own as it is before the call.
    ///
    /// # Panics
    /// Where it cannot be made.
    pub fn folder(&self) -> TempDir {
        let folder = tempfile::tempdir().expect("a temporary folder");
        copy(self.template.path(), folder.path());
        folder
    }

    /// Whether each file is as it was, or as it is to be, and none is missing that was there and is to stay.
    pub fn is_old_or_new(&self, state: &State) -> bool {
        let has = |state: &State, path: &Path| state.iter().any(|(other, _)| other == path);
        let mut stays = self.old.iter().filter(|(path, _)| has(&self.new, path));
        state.iter().all(|file| self.old.contains(file) || self.new.contains(file))
            && stays.all(|(path, _)| has(state, path))
    }
}

/// A run of `call` in `folder`, with temporary files in its `tmp`.
///
/// # Panics
/// Where it cannot be run.
pub fn started(folder: &Path, call: &str) -> Child {
    let mut command = command(folder, call);
    command.env("TMPDIR", folder.join("tmp"));
    command.stdin(Stdio::null()).stdout(Stdio::piped()).stderr(Stdio::piped()).spawn().expect("it runs")
}

/// The rows of all tables of a database, as text.
fn rows_of(path: &Path) -> Vec<u8> {
    let read = || -> rusqlite::Result<String> {
        let database = rusqlite::Connection::open(path)?;
        let mut text = String::new();
        let mut tables =
            database.prepare("SELECT name FROM sqlite_schema WHERE type = 'table' ORDER BY name")?;
        for table in tables.query_map([], |row| row.get::<_, String>(0))? {
            let table = table?;
            let mut query = database.prepare(&format!("SELECT * FROM \"{table}\" ORDER BY rowid"))?;
            let columns = query.column_count();
            let mut rows = query.query([])?;
            while let Some(row) = rows.next()? {
                let cells: Vec<String> = (0..columns)
                    .map(|column| row.get_ref(column).map(|cell| format!("{cell:?}")))
                    .collect::<Result<_, _>>()?;
                text.push_str(&format!("{table}: {}\n", cells.join(",")));
            }
        }
        Ok(text)
    };
    read().unwrap_or_else(|error| error.to_string()).into_bytes()
}

/// Whether a killed run may have left it for the next one to clear.
pub fn is_litter(path: &Path) -> bool {
    let name = path.to_string_lossy();
    ["partial-", ".ypogram-publishing", ".ypogram-job-", "-journal", "-wal", "-shm"]
        .iter()
        .any(|mark| name.contains(mark))
}

/// What is left in `folder` that no run should leave: partial files, and temporary ones in its `tmp`.
pub fn litter(folder: &Path) -> Vec<PathBuf> {
    let all = crate::program::files(folder).into_keys().filter(|path| is_litter(path));
    let temporary =
        std::fs::read_dir(folder.join("tmp")).into_iter().flatten().flatten().map(|entry| entry.path());
    all.chain(temporary).collect()
}

/// Copies a folder with all that is in it.
///
/// # Panics
/// Where that fails.
pub fn copy(from: &Path, to: &Path) {
    std::fs::create_dir_all(to).expect("made");
    for entry in std::fs::read_dir(from).expect("read").flatten() {
        let place = to.join(entry.file_name());
        match entry.path().is_dir() {
            true => copy(&entry.path(), &place),
            false => drop(std::fs::copy(entry.path(), place).expect("copied")),
        }
    }
}
