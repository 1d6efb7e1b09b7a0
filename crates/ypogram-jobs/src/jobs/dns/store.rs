//! Answers in a file: CSV with a row for each domain, so that it can be read, sent along and compared.

use std::collections::BTreeMap;
use std::path::Path;

use jiff::Timestamp;
use ypogram_io::{Error, OutputFile, Result, lock_current};

use crate::jobs::dns::answer::{Answer, AnswerKind};

/// The columns.
const COLUMNS: [&str; 5] = ["domain", "answer", "mail_host", "ttl", "asked"];

/// Answers by domain, in lower-case A-labels.
pub type Store = BTreeMap<String, Answer>;

/// Reads the answers of a file; none where it is not there and `may_be_missing`.
///
/// # Errors
/// Where the file cannot be read, or a row is not understood.
pub fn load(path: &Path, may_be_missing: bool) -> Result<Store> {
    let text = match std::fs::read(path) {
        Ok(text) => text,
        Err(error) if may_be_missing && error.kind() == std::io::ErrorKind::NotFound => {
            return Ok(Store::new());
        }
        Err(error) => return Err(Error::reading(&path.display().to_string(), &error)),
    };
    let mut rows = csv::Reader::from_reader(&text[..]);
    let unusable = |line: u64, what: String| {
        Error::unusable(
            format!("{}, line {line}: {what}", path.display()),
            "correct the line, or delete the file and ask anew: docs/dns.md says what its columns are",
        )
    };
    let header = rows.headers().map_err(|error| unusable(1, error.to_string()))?;
    if header.iter().ne(COLUMNS) {
        return Err(unusable(1, format!("the columns are not {}", COLUMNS.join(","))));
    }
    let mut store = Store::new();
    for row in rows.records() {
        let row =
            row.map_err(|error| unusable(error.position().map_or(1, |at| at.line()), error.to_string()))?;
        let line = row.position().map_or(0, |at| at.line());
        let (domain, answer) = read(&row).map_err(|what| unusable(line, what))?;
        store.insert(domain, answer);
    }
    Ok(store)
}

fn read(row: &csv::StringRecord) -> std::result::Result<(String, Answer), String> {
    let [domain, answer, mail_host, ttl, asked] =
        [0, 1, 2, 3, 4].map(|column| row.get(column).unwrap_or_default());
    let kind: AnswerKind = answer.parse().map_err(|()| format!("‘{answer}’ is no answer"))?;
    let ttl = ttl.parse().map_err(|_| format!("‘{ttl}’ is no number of seconds"))?;
    let asked: Timestamp =
        asked.parse().map_err(|_| format!("‘{asked}’ is no time, such as 2026-12-01T09:30:00Z"))?;
    if domain.is_empty() || domain != domain.to_ascii_lowercase() || !domain.is_ascii() {
        return Err(format!("‘{domain}’ is no domain in lower-case A-labels"));
    }
    Ok((domain.to_owned(), Answer { kind, mail_host: mail_host.to_owned(), ttl, asked }))
}

/// The answers as the text of a file.
pub fn text<'a>(answers: impl IntoIterator<Item = (&'a str, &'a Answer)>) -> String {
    let mut rows = csv::Writer::from_writer(Vec::new());
    const IN_MEMORY: &str = "memory is written";
    rows.write_record(COLUMNS).expect(IN_MEMORY);
    for (domain, answer) in answers {
        let Answer { kind, mail_host, ttl, asked } = answer;
        let (ttl, asked) = (ttl.to_string(), asked.strftime("%Y-%m-%dT%H:%M:%SZ").to_string());
        rows.write_record([domain, kind.word(), mail_host, &ttl, &asked]).expect(IN_MEMORY);
    }
    String::from_utf8(rows.into_inner().expect(IN_MEMORY)).expect("domains are ASCII, and words too")
}

/// Adds answers to the file at `path`, for its owner alone; what another run added meanwhile stays. What was not answered is not kept.
///
/// # Errors
/// Where the file cannot be read or written.
pub fn add_to(path: &Path, new: &Store) -> Result<()> {
    let folder = path.parent().filter(|folder| !folder.as_os_str().is_empty()).unwrap_or(Path::new("."));
    make_private_folder(folder)?;
    let _lock = lock_current(folder).map_err(|error| Error::writing(folder, &error))?;
    let kept = new.iter().filter(|(_, answer)| answer.kind != AnswerKind::NotAnswered);
    let mut all = load(path, true)?;
    all.extend(kept.map(|(domain, answer)| (domain.clone(), answer.clone())));
    let text = text(all.iter().map(|(domain, answer)| (&**domain, answer)));
    let mut file = OutputFile::create_private(path)?;
    file.write(text.as_bytes())?;
    file.sync()?;
    file.publish()
}

fn make_private_folder(folder: &Path) -> Result<()> {
    let mut builder = std::fs::DirBuilder::new();
    builder.recursive(true);
    #[cfg(unix)]
    std::os::unix::fs::DirBuilderExt::mode(&mut builder, 0o700);
    builder.create(folder).map_err(|error| Error::writing(folder, &error))
}
