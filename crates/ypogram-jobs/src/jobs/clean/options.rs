//! What `clean` is asked to do.

use std::path::PathBuf;
use std::sync::Arc;

use ypogram_core::Policy;
use ypogram_io::{EntryRefusal, Format, OpenOptions, RowSpec};

use crate::decisions::{Answers, Memory};
use crate::duplicates::survivor::Survivor;
use crate::engine::reading::SourceReport;
use crate::jobs::dns;
use crate::judge::selection::Selection;
use crate::lists::{AppendedColumn, ListReport};
use crate::plan::field_rules::FieldRule;
use crate::plan::fields::FieldChoice;
use crate::plan::house::HouseFormats;
use crate::plan::house_pattern::HousePattern;
use crate::plan::shared::Shared;

/// What is to be kept beside the sources.
#[derive(Clone, Debug)]
pub struct Keep {
    /// The arguments of the call, the program's name left out.
    pub arguments: Vec<String>,
    /// The folder in which it was called.
    pub called_in: PathBuf,
    /// Copies of the sources that are there already, in their order.
    pub copies: Vec<PathBuf>,
}

/// What `clean` is asked to do.
#[derive(Clone, Debug)]
pub struct CleanOptions {
    /// The files to read one after the other; `-` is standard input.
    pub sources: Vec<PathBuf>,
    /// How to open them.
    pub open: OpenOptions,
    /// The fields to look at.
    pub fields: FieldChoice,
    /// How to judge.
    pub policy: Policy,
    /// Patterns of which one should fit.
    pub patterns: Vec<HousePattern>,
    /// What is asked of other fields.
    pub field_rules: Vec<FieldRule>,
    /// The house's own address formats.
    pub house: HouseFormats,
    /// Read the sources twice, and learn typing slips from them first.
    pub learn: bool,
    /// Which usable records are wanted; the others are set aside.
    pub selection: Selection,
    /// The columns that lists append.
    pub from_lists: Vec<AppendedColumn>,
    /// How the rows of every output are arranged.
    pub rows: RowSpec,
    /// What was found while the lists were read, for the receipt.
    pub lists: Vec<ListReport>,
    /// The field that gets the address of accepted records; what stood there goes into a column of its own.
    pub into: Option<String>,
    /// Each usable address of a record gets a row of its own.
    pub row_per_address: bool,
    /// Fields that duplicates must have in common, letter case and white space aside.
    pub by: Vec<String>,
    /// Fields within whose values duplicates are looked for.
    pub within: Vec<String>,
    /// Which record of a mailbox stays.
    pub survivor: Survivor,
    /// Fill the empty fields of those that stay from their duplicates, and join the differing values of these fields.
    pub merge: Option<Vec<String>>,
    /// What becomes of a duplicate whose person is another than the earlier record's.
    pub shared: Shared,
    /// Fields that name a person; recognised by their names where none is given.
    pub persons: Vec<String>,
    /// The folder for the outputs, or the workbook whose sheets they are.
    pub folder: PathBuf,
    /// What the workbook refuses in its address columns while it is typed, and says then.
    pub entry_rule: EntryRefusal,
    /// Bytes for the mailboxes; past them the sources are read twice.
    pub memory: usize,
    /// Replace the outputs of an earlier run.
    pub force: bool,
    /// Replace them even where somebody has changed what is for review.
    pub discard_decisions: bool,
    /// What was decided about single records.
    pub answers: Answers,
    /// Decisions of earlier runs, which are applied.
    pub remembered: Option<Arc<Memory>>,
    /// What it takes to take decisions later, where that is kept in the folder.
    pub keep: Option<Keep>,
    /// The answers of the domain name system by which the policy judges, which are kept in the folder with it.
    pub dns: Option<Arc<dns::Answers>>,
    /// What was read when the records were numbered to which the decisions belong.
    pub read_before: Option<Vec<SourceReport>>,
    /// So many records are gathered behind each figure.
    pub records_behind: usize,
    /// What the names of added columns start with.
    pub prefix: String,
    /// The output folder of an earlier run, against which the records are held.
    pub since: Option<PathBuf>,
    /// Worker threads.
    pub threads: usize,
    /// A number that differs from run to run, so that nobody can foresee the hashes; no output depends on it.
    pub hash_key: u64,
    /// The rulebook as resolved, for the receipt.
    pub rulebook: serde_json::Value,
    /// The program's version, for the receipt.
    pub version: String,
}

impl CleanOptions {
    /// The plain case: `sources` into `folder`, the address field recognised, nothing asked for besides.
    pub fn of(sources: Vec<PathBuf>, folder: PathBuf) -> Self {
        CleanOptions {
            sources,
            open: OpenOptions::default(),
            fields: FieldChoice::default(),
            policy: Policy::default(),
            patterns: Vec::new(),
            field_rules: Vec::new(),
            house: HouseFormats::default(),
            learn: false,
            selection: Selection::default(),
            from_lists: Vec::new(),
            rows: RowSpec::default(),
            lists: Vec::new(),
            into: None,
            row_per_address: false,
            by: Vec::new(),
            within: Vec::new(),
            survivor: Survivor::First,
            merge: None,
            shared: Shared::Review,
            persons: Vec::new(),
            folder,
            entry_rule: EntryRefusal::default(),
            memory: 1 << 30,
            force: false,
            discard_decisions: false,
            answers: Answers::default(),
            remembered: None,
            keep: None,
            dns: None,
            read_before: None,
            records_behind: 0,
            prefix: "yp_".into(),
            since: None,
            threads: 1,
            hash_key: 0,
            rulebook: serde_json::Value::Null,
            version: env!("CARGO_PKG_VERSION").into(),
        }
    }

    /// Whether the outputs are sheets of one workbook.
    pub fn is_book(&self) -> bool {
        Format::named_by(&self.folder) == Some(Format::Xlsx)
    }

    /// The format of the outputs, where one was asked for.
    pub(crate) fn format(&self) -> Option<Format> {
        if self.is_book() { Some(Format::Xlsx) } else { self.rows.format }
    }
}
