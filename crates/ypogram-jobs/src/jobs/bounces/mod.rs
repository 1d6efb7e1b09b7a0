//! What comes back after a mailing: which mailboxes are gone, full or moved, and who wants to be left alone.

mod addresses;
mod automatic_reply;
mod delivery_status;
mod feedback;
mod notice;
mod phrases;
mod plain_bounce;
mod readable;
mod said;
mod status;
mod what;
mod wish;

use std::collections::HashMap;
use std::path::PathBuf;

use serde::Serialize;
use ypogram_io::pieces::{Limits, list_files};
use ypogram_io::{Error, ErrorKind, Result, RowSpec, Target, each_message};

use crate::engine::progress::Progress;
use crate::engine::side_table::SideTable;
use notice::{Notice, Said};
use said::said_by;
pub use what::What;

/// What is read, and where the rows go.
#[derive(Clone, Debug)]
pub struct BouncesOptions {
    /// Files of messages, and folders of such.
    pub sources: Vec<PathBuf>,
    /// How much of what a message allows is taken for sense.
    pub limits: Limits,
    /// Only these come out; all where none is named.
    pub only: Vec<What>,
    /// How rows are arranged.
    pub rows: RowSpec,
    /// Where they go.
    pub target: Target,
}

/// What came back.
#[derive(Clone, Debug, Default, Serialize)]
pub struct BouncesReport {
    /// Files that were read, by name.
    pub files: Vec<String>,
    /// Messages in them; each reports on recipients, is another, or unread.
    pub messages: u64,
    /// Messages that report on a recipient.
    pub with_recipients: u64,
    /// Messages that are about something else.
    pub other: u64,
    /// Recipients that something is said of.
    pub recipients: u64,
    /// For each thing that can be said, in the order of [`What::ALL`], its word and how many recipients it is said of.
    pub what: Vec<(&'static str, u64)>,
    /// Rows that came out.
    pub rows: u64,
    /// Messages that could not be read or not be understood, with the reason.
    pub unread: Vec<Unread>,
    /// Files and folders that could not be read.
    pub troubles: Vec<String>,
}

impl BouncesReport {
    /// Recipients that `what` is said of.
    pub fn of(&self, what: What) -> u64 {
        self.what.iter().find(|(word, _)| *word == what.word()).map_or(0, |(_, count)| *count)
    }
}

/// A message that could not be read or not be understood.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
pub struct Unread {
    /// The file, and behind `#` the message's number in it.
    pub source: String,
    /// Why.
    pub why: &'static str,
}

/// The columns of the rows.
const COLUMNS: [&str; 6] = ["recipient", "what", "new_address", "code", "evidence", "source"];

/// Reads what came back, and writes a row a recipient.
///
/// # Errors
/// Where a file that was named cannot be read, a message is too large, or the output cannot be written.
pub fn run(options: &BouncesOptions, progress: &Progress) -> Result<BouncesReport> {
    let mut table = SideTable::open(&options.target, &COLUMNS, &[], &options.rows)?;
    let mut report = BouncesReport::default();
    let mut recipients = Recipients::default();
    let (files, troubles) = list_files(&options.sources);
    report.troubles = troubles;
    for file in files {
        let name = file.path.display().to_string();
        let mut messages = Vec::new();
        let read = each_message(&file.path, options.limits, &mut |message| {
            progress.check()?;
            messages.push((message.number, said_by(&message)));
            Ok(())
        });
        let unread = match read {
            Ok(unread) => unread,
            Err(error) if file.named || error.kind == ErrorKind::Interrupted => return Err(error),
            Err(error) => {
                report.troubles.push(error.to_string());
                continue;
            }
        };
        progress.advance(file.path.metadata().map_or(0, |file| file.len()));
        report.messages += (messages.len() + unread.len()) as u64;
        let mut unread: Vec<(u64, &'static str)> =
            unread.into_iter().map(|unread| (unread.number, unread.why)).collect();
        for (number, said) in messages {
            match said {
                Said::Other => report.other += 1,
                Said::Unread(why) => unread.push((number, why)),
                Said::Notices(notices) => {
                    report.with_recipients += 1;
                    notices.into_iter().for_each(|notice| recipients.add(notice, format!("{name}#{number}")));
                }
            }
        }
        unread.sort_unstable();
        let unread =
            unread.into_iter().map(|(number, why)| Unread { source: format!("{name}#{number}"), why });
        report.unread.extend(unread);
        report.files.push(name);
    }
    if report.files.is_empty() && report.troubles.is_empty() {
        return Err(Error::unusable("no file found in these folders", "name the mails that came back"));
    }
    report.recipients = recipients.all.len() as u64;
    report.what = What::ALL.iter().map(|what| (what.word(), recipients.count(*what))).collect();
    for (notice, source) in &recipients.all {
        if options.only.is_empty() || options.only.contains(&notice.what) {
            let Notice { recipient, what, new_address, code, evidence } = notice;
            table.add([recipient, what.word(), new_address, code, evidence, source])?;
            report.rows += 1;
        }
    }
    table.finish()?.finish()?;
    Ok(report)
}

/// What is said of each recipient, with the message that says it, in the order in which they were met.
#[derive(Default)]
struct Recipients {
    all: Vec<(Notice, String)>,
    by_key: HashMap<String, usize>,
}

impl Recipients {
    /// Adds what a message says: of what is said of one recipient, what counts most, and the last of that.
    fn add(&mut self, notice: Notice, source: String) {
        let at = *self.by_key.entry(addresses::key(&notice.recipient)).or_insert(self.all.len());
        match self.all.get_mut(at) {
            None => self.all.push((notice, source)),
            Some((held, held_source)) if notice.what.weight() >= held.what.weight() => {
                let new_address = std::mem::take(&mut held.new_address);
                *held = notice;
                *held_source = source;
                if held.what == What::Moved && held.new_address.is_empty() {
                    held.new_address = new_address;
                }
            }
            Some(_) => {}
        }
    }

    fn count(&self, what: What) -> u64 {
        self.all.iter().filter(|(notice, _)| notice.what == what).count() as u64
    }
}
