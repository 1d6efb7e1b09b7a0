//! The command line: what can be typed, and what help says of it.

use std::path::PathBuf;

use clap::{Args, Parser, Subcommand, ValueEnum};
use ypogram_core::names::NameOrder;
use ypogram_core::{Grammar, SameMailbox};
use ypogram_tables::Format;

/// Cleans contact lists: finds the email addresses, judges them, finds duplicates, and accounts for every record.
#[derive(Debug, Parser)]
#[command(name = "ypogram", version, max_term_width = 110, arg_required_else_help = true)]
#[command(after_help = "\
Start here:
  ypogram demo                                      see it work on made-up data
  ypogram survey members.csv                        what is in the file, before anything is touched
  ypogram explain 'night.owl@gmial,com'             what is wrong with it, and what was meant
  ypogram clean members.csv --field email           a messy file in, a clean list out

Exit codes: 0 done; 1 done, and something is to be told; 2 call, rulebook or input unusable; 3 output not written.")]
pub(crate) struct Arguments {
    #[command(subcommand)]
    pub(crate) command: Command,
}

#[derive(Debug, Subcommand)]
pub(crate) enum Command {
    Survey(SurveyArguments),
    Extract(ExtractArguments),
    Check(CheckArguments),
    Explain(ExplainArguments),
    Split(SplitArguments),
    Dedupe(DedupeArguments),
    Clean(CleanArguments),
    Lists(ListsArguments),
    Rules(RulesArguments),
    Demo(DemoArguments),
}

/// Look before touching: how full each field is, how addresses stand in it, what is wrong, and where else there are some
#[derive(Debug, Args)]
#[command(after_help = "\
Every line of the survey tells the --show that opens the records behind it.

  ypogram survey members.csv
  ypogram survey members.csv --show form=mailto                    the records behind a figure
  ypogram survey members.csv --where field=email,address=no        just the records whose email field gives no address
  ypogram survey members-cleaned/kept.csv --against members.csv    what changed
  ypogram survey members.csv --html survey.html                    a page to send around")]
pub(crate) struct SurveyArguments {
    #[command(flatten)]
    pub(crate) sources: SourceArguments,

    #[command(flatten)]
    pub(crate) judging: JudgingArguments,

    /// Survey only the records that meet the condition, written as for --show
    #[arg(long = "where", value_name = "CONDITION", help_heading = "What to look at")]
    pub(crate) only: Option<String>,

    /// Write the records that meet the condition, whole, with their lines: finding=CODE, form=WORD, shape=SHAPE, kind=WORD,
    /// filled=yes|no, address=yes|no, at-sign=yes|no, value=TEXT, domain=NAME, local-part=TEXT, class=WORD,
    /// operator=NAME, verdict=WORD, usable=as-it-stands|after-repair|from-text, repair=CODE; field=NAME says which field the others are about; several separated by
    /// commas
    #[arg(long, value_name = "CONDITION", help_heading = "What to look at", conflicts_with_all = ["only", "label", "against", "save", "html"])]
    pub(crate) show: Option<String>,

    /// Write every record with the kind of what this field holds: address, telephone, name, …
    #[arg(long, value_name = "FIELD", help_heading = "What to look at", conflicts_with_all = ["only", "against", "save", "html"])]
    pub(crate) label: Option<String>,

    /// Shapes down to letters and digits
    #[arg(long, help_heading = "What to look at")]
    pub(crate) fine: bool,

    /// The rarest shapes instead of the most frequent
    #[arg(long, help_heading = "What to look at")]
    pub(crate) rare: bool,

    /// Hold it against another file, or a survey that was kept with --save
    #[arg(long, value_name = "OTHER", help_heading = "What to look at")]
    pub(crate) against: Option<PathBuf>,

    /// File for the records of --show or --label; `-` is standard output [default: standard output]
    #[arg(short, long, value_name = "FILE", help_heading = "Output")]
    pub(crate) output: Option<PathBuf>,

    /// Keep the survey in this file, to hold another against it later
    #[arg(long, value_name = "FILE", help_heading = "Output")]
    pub(crate) save: Option<PathBuf>,

    /// Write the survey as a page that can be sent around
    #[arg(long, value_name = "FILE", help_heading = "Output")]
    pub(crate) html: Option<PathBuf>,

    /// Replace an output file that exists
    #[arg(long, help_heading = "Output")]
    pub(crate) force: bool,

    #[command(flatten)]
    pub(crate) columns: ColumnArguments,

    #[command(flatten)]
    pub(crate) telling: TellingArguments,

    #[command(flatten)]
    pub(crate) machine: MachineArguments,
}

/// Pull every address out of tables, text, mail, web pages and data: one row an address, with where it stood
#[derive(Debug, Args)]
#[command(after_help = "\
Formats by ending: csv tsv html json jsonl eml mbox, each also .gz or .zst; anything else is text. Folders are read with
all that is in them, by the usual ignore rules.

  ypogram extract notes.txt -o found.csv
  ypogram extract mails/ --unique --to plain                  every mailbox once
  ypogram extract page.html --show-skipped                    what has an @ and is no address
  ypogram extract members.csv --row-per-address               a row with three addresses becomes three rows")]
pub(crate) struct ExtractArguments {
    /// Files and folders to read; `-` is standard input
    #[arg(required = true, value_name = "SOURCE", help_heading = "Input")]
    pub(crate) sources: Vec<PathBuf>,

    /// Only this field of a table, key of JSON (contact.email) or part of a mail (from, body); may be given again
    #[arg(short, long = "field", value_name = "NAME", help_heading = "Input")]
    pub(crate) fields: Vec<String>,

    /// The field of a table that tells records apart: a column beside record and line
    #[arg(long, value_name = "NAME", help_heading = "Input")]
    pub(crate) id: Option<String>,

    /// A trial that ends with the first N rows: shows them and writes nothing
    #[arg(long, value_name = "N", value_parser = clap::value_parser!(u64).range(1..), help_heading = "Input")]
    pub(crate) first: Option<u64>,

    /// The format, where the ending of the file does not tell
    #[arg(long, value_name = "FORMAT", help_heading = "Input")]
    pub(crate) from: Option<TextFormat>,

    /// What separates the cells of a table: a character, or `tab` [default: recognised]
    #[arg(long, value_name = "CHARACTER", value_parser = delimiter, help_heading = "Input")]
    pub(crate) delimiter: Option<u8>,

    /// The table has no header row: its fields are called field1, field2, …
    #[arg(long, help_heading = "Input")]
    pub(crate) no_header: bool,

    /// Take what can be read of an input that breaks off; exit with 1
    #[arg(long, help_heading = "Input")]
    pub(crate) salvage: bool,

    /// Take addresses whatever their ending
    #[arg(long, help_heading = "Finding")]
    pub(crate) any_ending: bool,

    /// Also take `name at host dot org`, (at), [at], {dot} and the like; for review at most
    #[arg(long, help_heading = "Finding")]
    pub(crate) obfuscated: bool,

    #[command(flatten)]
    pub(crate) judging: JudgingArguments,

    /// File for the rows; its ending chooses the format; `-` is standard output [default: standard output]
    #[arg(short, long, value_name = "FILE", help_heading = "Output")]
    pub(crate) output: Option<PathBuf>,

    /// How rows are written, where the ending does not tell [default: csv]
    #[arg(long, value_name = "FORMAT", help_heading = "Output")]
    pub(crate) to: Option<RowFormatArgument>,

    /// Octets of the text around an address to write with it
    #[arg(long, value_name = "N", default_value_t = 0, hide_default_value = true, help_heading = "Output")]
    pub(crate) context: u16,

    /// One row a mailbox, with a count and the first place
    #[arg(long, help_heading = "Output")]
    pub(crate) unique: bool,

    /// Repeat the record of a table once for each address in it
    #[arg(long, help_heading = "Output", conflicts_with_all = ["unique", "context", "show_skipped", "to"])]
    pub(crate) row_per_address: bool,

    /// List what has an @ and is no address, with the reason, instead of the addresses
    #[arg(long, help_heading = "Output", conflicts_with = "unique")]
    pub(crate) show_skipped: bool,

    /// Replace an output file that exists
    #[arg(long, help_heading = "Output")]
    pub(crate) force: bool,

    #[command(flatten)]
    pub(crate) columns: ColumnArguments,

    #[command(flatten)]
    pub(crate) telling: TellingArguments,

    #[command(flatten)]
    pub(crate) machine: MachineArguments,
}

/// Annotate every record with standard address, verdict and findings, and sum up
#[derive(Debug, Args)]
#[command(after_help = "\
  ypogram check members.csv --field email -o checked.csv
  ypogram check members.csv --show finding=double-dot          the records behind a figure
  ypogram check list.txt --to plain                            input,true|false and nothing else
  tail -f sign-ups.txt | ypogram check --each                  one address in, one JSON line out")]
pub(crate) struct CheckArguments {
    #[command(flatten)]
    pub(crate) sources: SourceArguments,

    /// Answer each line of standard input with one JSON line, at once; with --from jsonl, the address is in --field
    #[arg(long, help_heading = "Input", conflicts_with_all = ["output", "show", "pattern", "to", "json", "fail_on"])]
    pub(crate) each: bool,

    #[command(flatten)]
    pub(crate) judging: JudgingArguments,

    #[command(flatten)]
    pub(crate) selection: SelectionArguments,

    /// A pattern of the rulebook that values should fit; may be given again, then the first that fits is named
    #[arg(long, value_name = "NAME", help_heading = "Judging")]
    pub(crate) pattern: Vec<String>,

    /// File for the records; `-` is standard output [default: standard output]
    #[arg(short, long, value_name = "FILE", help_heading = "Output")]
    pub(crate) output: Option<PathBuf>,

    /// Write only the records that meet the condition, with their lines: finding=CODE, verdict=WORD, form=WORD,
    /// class=WORD, repair=CODE, field=NAME, address=yes|no and the others of `survey --show`; several separated by commas
    #[arg(long, value_name = "CONDITION", help_heading = "Output")]
    pub(crate) show: Option<String>,

    /// `plain`: just the input and whether it is well formed
    #[arg(long, value_name = "FORMAT", help_heading = "Output")]
    pub(crate) to: Option<CheckFormat>,

    /// Replace an output file that exists
    #[arg(long, help_heading = "Output")]
    pub(crate) force: bool,

    #[command(flatten)]
    pub(crate) columns: ColumnArguments,

    #[command(flatten)]
    pub(crate) telling: TellingArguments,

    #[command(flatten)]
    pub(crate) machine: MachineArguments,
}

/// Tell everything about an address: what is wrong and where, its parts, its mailbox, what was probably meant
#[derive(Debug, Args)]
#[command(after_help = "Exit codes: 0 every address is accepted or for review; 1 one is rejected.")]
pub(crate) struct ExplainArguments {
    /// Addresses, as they stand: with name, brackets or mailto: around them
    #[arg(required = true, value_name = "ADDRESS")]
    pub(crate) addresses: Vec<std::ffi::OsString>,

    #[command(flatten)]
    pub(crate) judging: JudgingArguments,

    /// Print JSON
    #[arg(long, help_heading = "Output")]
    pub(crate) json: bool,
}

/// Show the findings and how much each weighs; start, check and try a rulebook
#[derive(Debug, Args)]
#[command(args_conflicts_with_subcommands = true)]
pub(crate) struct RulesArguments {
    #[command(subcommand)]
    pub(crate) command: Option<RulesCommand>,

    /// Only these findings, with what to do and the standard
    #[arg(value_name = "CODE")]
    pub(crate) codes: Vec<String>,

    #[command(flatten)]
    pub(crate) judging: JudgingArguments,

    /// Print JSON
    #[arg(long, help_heading = "Output")]
    pub(crate) json: bool,
}

#[derive(Debug, Subcommand)]
pub(crate) enum RulesCommand {
    /// Write a commented rulebook to start from
    Start {
        /// Where to write it
        #[arg(default_value = crate::rulebook::FILE_NAME, value_name = "FILE")]
        file: PathBuf,
    },
    /// Tell whether a rulebook is understood
    Check {
        /// The rulebook
        #[arg(default_value = crate::rulebook::FILE_NAME, value_name = "FILE")]
        file: PathBuf,
    },
    /// Try values against patterns of the rulebook
    Try {
        /// The pattern; may be given again [default: all]
        #[arg(long, value_name = "NAME")]
        pattern: Vec<String>,

        /// The rulebook [default: ypogram.toml]
        #[arg(long, value_name = "FILE")]
        rules: Option<PathBuf>,

        /// Values to try
        #[arg(required = true, value_name = "VALUE")]
        values: Vec<String>,
    },
}

/// Split addresses into their parts, read names out of them for a mail merge, and cut other delimited values
#[derive(Debug, Args)]
#[command(after_help = "\
A cut reads like a sentence: FIELD at SEPARATOR: PART as COLUMN, …; parts are 1, 2, last, last but 1, or runs such as 2 to
last; several separators are joined with or; what has spaces or signs in it goes in double quotes. FIELD by PATTERN: GROUP
as COLUMN takes the groups of a pattern of the rulebook.

  ypogram split members.csv -o parts.csv                                       local part and domain
  ypogram split members.csv --parts first-name=First,last-name=Last,domain -o merge.csv
  ypogram split members.csv --title-case name --parts first-name,last-name,name-confidence --first 10
  ypogram split loans.csv --cut 'loan at /: 2 as loan, last as copy' --sort-by loan -o loans-cut.csv")]
pub(crate) struct SplitArguments {
    #[command(flatten)]
    pub(crate) sources: SourceArguments,

    #[command(flatten)]
    pub(crate) judging: JudgingArguments,

    /// Parts of the address, each as PART or PART=COLUMN [default: local-part,domain]
    #[arg(long, value_name = "PART,…", value_delimiter = ',', help_heading = "Splitting")]
    pub(crate) parts: Vec<String>,

    /// Tell the parts that there are
    #[arg(long, help_heading = "Splitting")]
    pub(crate) list_parts: bool,

    /// Put the parts where the address field stands, which does not come out itself
    #[arg(long, help_heading = "Splitting", conflicts_with = "columns")]
    pub(crate) replace: bool,

    /// A row of its own for each usable address of a record
    #[arg(long, help_heading = "Splitting")]
    pub(crate) row_per_address: bool,

    /// Which name stands first in local parts [default: first-name-first]
    #[arg(long, value_name = "ORDER", help_heading = "Splitting")]
    pub(crate) name_order: Option<NameOrderArgument>,

    /// Cut the values of another field, such as 'loan at /: 2 as loan, last as copy'; may be given again
    #[arg(long, value_name = "SENTENCE", help_heading = "Splitting")]
    pub(crate) cut: Vec<String>,

    /// Bring the names in this field to proper capitals; may be given again
    #[arg(long, value_name = "FIELD", help_heading = "Splitting")]
    pub(crate) title_case: Vec<String>,

    /// Write only records that meet a condition, as in `check --show`
    #[arg(long, value_name = "CONDITION", help_heading = "Output")]
    pub(crate) show: Option<String>,

    /// File for the rows; `-` is standard output [default: standard output]
    #[arg(short, long, value_name = "FILE", help_heading = "Output")]
    pub(crate) output: Option<PathBuf>,

    /// Sort the rows by this column of the output, numbers and dates by value; may be given again
    #[arg(long, value_name = "COLUMN", help_heading = "Output")]
    pub(crate) sort_by: Vec<String>,

    /// Replace an output file that exists
    #[arg(long, help_heading = "Output")]
    pub(crate) force: bool,

    #[command(flatten)]
    pub(crate) columns: ColumnArguments,

    #[command(flatten)]
    pub(crate) telling: TellingArguments,

    #[command(flatten)]
    pub(crate) machine: MachineArguments,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub(crate) enum NameOrderArgument {
    /// As in ada.lovell
    FirstNameFirst,
    /// As in lovell.ada
    FamilyFirst,
}

impl From<NameOrderArgument> for NameOrder {
    fn from(argument: NameOrderArgument) -> Self {
        match argument {
            NameOrderArgument::FirstNameFirst => NameOrder::FirstNameFirst,
            NameOrderArgument::FamilyFirst => NameOrder::FamilyFirst,
        }
    }
}

/// Show, try, check and extend the reference lists: free providers, throw-away services, role desks, and your own
#[derive(Debug, Args)]
#[command(
    args_conflicts_with_subcommands = true,
    after_help = "\
  ypogram lists                                    every list in force, with where it comes from
  ypogram lists show disposable --like mail        what is on one
  ypogram lists test ada@mail.marshmill.example    which entry of which list decides, and why
  ypogram lists add partners marshmill.example     edits the file of a list that the rulebook names
  ypogram lists check partners.csv                 entries that stand twice, cannot be used or never match"
)]
pub(crate) struct ListsArguments {
    #[command(subcommand)]
    pub(crate) command: Option<ListsCommand>,

    #[command(flatten)]
    pub(crate) judging: JudgingArguments,

    /// Print JSON
    #[arg(long, global = true, help_heading = "Output")]
    pub(crate) json: bool,
}

#[derive(Debug, Subcommand)]
pub(crate) enum ListsCommand {
    /// Show the entries of a list
    Show {
        /// The list
        #[arg(value_name = "NAME")]
        name: String,

        /// Only entries with this text in them
        #[arg(long, value_name = "TEXT")]
        like: Option<String>,

        #[command(flatten)]
        judging: JudgingArguments,
    },
    /// Tell which entries of which lists speak of an address or domain, and which one decides
    Test {
        /// Addresses and domains
        #[arg(required = true, value_name = "ADDRESS|DOMAIN")]
        values: Vec<String>,

        #[command(flatten)]
        judging: JudgingArguments,
    },
    /// Add entries to a list of your own
    Add(ListEditArguments),
    /// Change the cells beside entries, or the entries themselves
    Change(ListEditArguments),
    /// Remove entries from a list of your own
    Remove(ListEditArguments),
    /// Tell what is wrong with a list: what stands twice, cannot be used, never matches, or is known already
    Check {
        /// The list, or its file
        #[arg(value_name = "NAME|FILE")]
        list: String,

        /// What the entries of the file are [default: each an address or a domain, as it is written]
        #[arg(long, value_name = "WHAT")]
        of: Option<String>,

        /// The class that the entries of the file give, so that it can be held against the built-in lists
        #[arg(long, value_name = "CLASS")]
        class: Option<String>,

        /// File for the list with every entry as it is looked up, each once; comments and order stay
        #[arg(short, long, value_name = "FILE", help_heading = "Output")]
        output: Option<PathBuf>,

        /// Replace an output file that exists
        #[arg(long, help_heading = "Output")]
        force: bool,

        #[command(flatten)]
        judging: JudgingArguments,
    },
}

#[derive(Debug, Args)]
pub(crate) struct ListEditArguments {
    /// The list, as the rulebook names it, or its file
    #[arg(value_name = "NAME|FILE")]
    pub(crate) list: String,

    /// Entries
    #[arg(value_name = "ENTRY", required_unless_present = "from_file")]
    pub(crate) entries: Vec<String>,

    /// Take entries, and the columns beside them, from this file as well
    #[arg(long, value_name = "FILE")]
    pub(crate) from_file: Option<PathBuf>,

    /// A cell beside each entry; may be given again
    #[arg(long, value_name = "COLUMN=CELL")]
    pub(crate) set: Vec<String>,

    /// What the entry becomes (only for change)
    #[arg(long, value_name = "ENTRY")]
    pub(crate) becomes: Option<String>,

    #[command(flatten)]
    pub(crate) judging: JudgingArguments,
}

/// Find the records that reach the same mailbox: show the groups, mark them, or keep one whole record of each
#[derive(Debug, Args)]
#[command(after_help = "\
Without -o it shows the groups and what each rule would join, and writes nothing.

  ypogram dedupe members.csv
  ypogram dedupe members.csv --mark -o marked.csv                   every record, with what it is the same as
  ypogram dedupe members.csv -o unique.csv --dropped dropped.csv    one of each, and the others with the record they lost to
  ypogram dedupe members.csv --survivor newest:joined --merge -o unique.csv
  ypogram dedupe members.csv sign-ups.csv -o unique.csv             what comes first is preferred")]
pub(crate) struct DedupeArguments {
    #[command(flatten)]
    pub(crate) sources: SourceArguments,

    #[command(flatten)]
    pub(crate) judging: JudgingArguments,

    /// Which record of a group stays: first, last, fullest, best (verdict, then fullest), newest:FIELD, oldest:FIELD, or
    /// where:FIELD=VALUE,VALUE in order of preference; ties fall to the first
    #[arg(long, value_name = "WHICH", default_value = "first", help_heading = "Groups")]
    pub(crate) survivor: String,

    /// Another field that must be equal, letter case and white space aside; may be given again
    #[arg(long, value_name = "FIELD", help_heading = "Groups")]
    pub(crate) by: Vec<String>,

    /// Look for duplicates only among records with the same value of this field; may be given again
    #[arg(long, value_name = "FIELD", help_heading = "Groups")]
    pub(crate) within: Vec<String>,

    /// What becomes of a duplicate whose person is another than the survivor's
    #[arg(long, value_name = "WHAT", default_value = "drop", help_heading = "Groups")]
    pub(crate) shared: SharedArgument,

    /// File for one record of each mailbox, or with --mark for all; `-` is standard output
    #[arg(short, long, value_name = "FILE", help_heading = "Output")]
    pub(crate) output: Option<PathBuf>,

    /// Write every record with its key, the record that it is the same as, and how many are the same
    #[arg(long, help_heading = "Output", requires = "output", conflicts_with_all = ["dropped", "no_address", "merge"])]
    pub(crate) mark: bool,

    /// File for the records that do not stay, each with the record that it lost to
    #[arg(long, value_name = "FILE", help_heading = "Output", requires = "output")]
    pub(crate) dropped: Option<PathBuf>,

    /// File for records without an address [default: they stay with the others]
    #[arg(long, value_name = "FILE", help_heading = "Output", requires = "output")]
    pub(crate) no_address: Option<PathBuf>,

    /// Fill empty fields of the record that stays from the others of its group, the preferred first
    #[arg(long, help_heading = "Output", requires = "output")]
    pub(crate) merge: bool,

    /// With --merge, join the differing values of this field; may be given again
    #[arg(long, value_name = "FIELD", help_heading = "Output", requires = "merge")]
    pub(crate) collect: Vec<String>,

    /// With --merge, file for every cell that was filled [default: named after the output, as in unique-changes.csv]
    #[arg(long, value_name = "FILE", help_heading = "Output", requires = "merge")]
    pub(crate) changes: Option<PathBuf>,

    /// File for all groups, one row a record
    #[arg(long, value_name = "FILE", help_heading = "Output")]
    pub(crate) report: Option<PathBuf>,

    /// File for the pairs that one rule joins and another does not
    #[arg(long, value_name = "FILE", help_heading = "Output")]
    pub(crate) rule_differences: Option<PathBuf>,

    /// File for probable twins, which no rule joins: one a typing slip of the other, the same local part at a sibling
    /// domain, or the same person with local parts one slip apart. They are shown, and never dropped
    #[arg(long, value_name = "FILE", help_heading = "Output")]
    pub(crate) near: Option<PathBuf>,

    /// Replace output files that exist
    #[arg(long, help_heading = "Output")]
    pub(crate) force: bool,

    /// Memory for keys, such as 256M or 2G; what does not fit goes to a temporary folder
    #[arg(long, value_name = "SIZE", default_value = "1G", value_parser = octets, help_heading = "Machine")]
    pub(crate) memory: usize,

    #[command(flatten)]
    pub(crate) columns: ColumnArguments,

    #[command(flatten)]
    pub(crate) telling: TellingArguments,

    #[command(flatten)]
    pub(crate) machine: MachineArguments,
}

/// Sort every record of a contact list into the file of its outcome, with a summary whose figures add up
#[derive(Debug, Args)]
#[command(after_help = "\
Each record ends in exactly one file: kept, review, rejected, duplicates, set-aside or no-address. Its own fields stay as
they are; Ypogram's columns are appended. receipt.json holds every count.

  ypogram clean members.csv --field email -o cleaned/
  ypogram clean members.csv --field email --also notes      take addresses out of the notes where the field has none
  ypogram clean a.csv b.csv                                 several files as one list; a.csv comes first")]
pub(crate) struct CleanArguments {
    #[command(flatten)]
    pub(crate) sources: SourceArguments,

    #[command(flatten)]
    pub(crate) judging: JudgingArguments,

    #[command(flatten)]
    pub(crate) selection: SelectionArguments,

    /// Read the list twice, and learn typing slips from it first: a domain seen a few times, one letter from one seen
    /// very often
    #[arg(long, help_heading = "Judging")]
    pub(crate) learn: bool,

    /// Folder for the outputs [default: named after the source, as in members-cleaned]
    #[arg(short, long, value_name = "FOLDER", help_heading = "Output")]
    pub(crate) output: Option<PathBuf>,

    /// Replace the outputs of an earlier run in that folder
    #[arg(long, help_heading = "Output")]
    pub(crate) force: bool,

    /// Memory for mailboxes, such as 256M or 2G; past it the list is read twice, with a temporary folder
    #[arg(long, value_name = "SIZE", default_value = "1G", value_parser = octets, help_heading = "Machine")]
    pub(crate) memory: usize,

    #[command(flatten)]
    pub(crate) columns: ColumnArguments,

    #[command(flatten)]
    pub(crate) telling: TellingArguments,

    #[command(flatten)]
    pub(crate) machine: MachineArguments,
}

/// Write the demo files into a folder, clean them, and show what was found
#[derive(Debug, Args)]
pub(crate) struct DemoArguments {
    /// Folder to write them into
    #[arg(short, long, value_name = "FOLDER", default_value = "fernhollow-demo")]
    pub(crate) output: PathBuf,
}

/// Where records come from.
#[derive(Debug, Args)]
#[command(next_help_heading = "Input")]
pub(crate) struct SourceArguments {
    /// Files to read one after the other as one list; `-` is standard input
    #[arg(value_name = "SOURCE")]
    pub(crate) sources: Vec<PathBuf>,

    /// A field that should hold an address and nothing else; may be given again, in order of preference
    #[arg(short, long = "field", value_name = "NAME")]
    pub(crate) fields: Vec<String>,

    /// A field that may hold an address among other words; may be given again, in order of preference
    #[arg(short, long, value_name = "NAME")]
    pub(crate) also: Vec<String>,

    /// A field that names the person whose record it is; may be given again [default: recognised by its name]
    #[arg(long, value_name = "NAME")]
    pub(crate) person: Vec<String>,

    /// The field that tells records apart, shown beside the line wherever a record is named
    #[arg(long, value_name = "NAME")]
    pub(crate) id: Option<String>,

    /// A trial on the first N records: shows the result and writes nothing
    #[arg(long, value_name = "N", value_parser = clap::value_parser!(u64).range(1..))]
    pub(crate) first: Option<u64>,

    /// The format, where the ending of the file does not tell
    #[arg(long, value_name = "FORMAT")]
    pub(crate) from: Option<FormatArgument>,

    /// What separates the cells of a table: a character, or `tab` [default: recognised]
    #[arg(long, value_name = "CHARACTER", value_parser = delimiter)]
    pub(crate) delimiter: Option<u8>,

    /// The table has no header row: its fields are called field1, field2, …
    #[arg(long)]
    pub(crate) no_header: bool,

    /// Take what can be read of an input that breaks off; exit with 1
    #[arg(long)]
    pub(crate) salvage: bool,
}

/// How addresses are judged.
#[derive(Debug, Default, Args)]
#[command(next_help_heading = "Judging")]
pub(crate) struct JudgingArguments {
    /// The rulebook to go by [default: ypogram.toml in the working directory, where there is one]
    #[arg(long, value_name = "FILE", conflicts_with = "no_rules")]
    pub(crate) rules: Option<PathBuf>,

    /// Go by no rulebook, even where there is one
    #[arg(long)]
    pub(crate) no_rules: bool,

    /// The grammar to hold addresses against [default: smtp]
    #[arg(long, value_name = "GRAMMAR")]
    pub(crate) grammar: Option<GrammarArgument>,

    /// When two addresses are one mailbox [default: provider]
    #[arg(long, value_name = "RULE")]
    pub(crate) same: Option<SameArgument>,

    /// The letter case of local parts in the standard form [default: lower]
    #[arg(long, value_name = "CASE")]
    pub(crate) letter_case: Option<LetterCaseArgument>,

    /// A list of your own and what it does, as in partners=partners.csv,class=partner; may be given again
    #[arg(long = "list", value_name = "NAME=FILE,…")]
    pub(crate) own_lists: Vec<String>,
}

/// Which usable records are wanted.
#[derive(Debug, Args)]
#[command(next_help_heading = "Selection")]
pub(crate) struct SelectionArguments {
    /// Only usable records of these classes or with these findings, such as business,education; the others are set aside
    /// with the reason
    #[arg(long, value_name = "SORT,…", value_delimiter = ',')]
    pub(crate) only: Vec<String>,

    /// Set aside usable records of these classes or with these findings, such as free,disposable,role-desk
    #[arg(long, value_name = "SORT,…", value_delimiter = ',')]
    pub(crate) without: Vec<String>,
}

/// Which columns come out.
#[derive(Debug, Default, Args)]
#[command(next_help_heading = "Output")]
pub(crate) struct ColumnArguments {
    /// The columns that come out, yours and Ypogram's, in this order, as NAME or NAME=NEW␣NAME [default: all]
    #[arg(long, value_name = "COLUMN,…", value_delimiter = ',')]
    pub(crate) columns: Vec<String>,
}

/// What is told, and how.
#[derive(Debug, Args)]
#[command(next_help_heading = "Output")]
pub(crate) struct TellingArguments {
    /// What the names of added columns start with [default: yp_]
    #[arg(long, value_name = "TEXT")]
    pub(crate) prefix: Option<String>,

    /// Print the summary as JSON
    #[arg(long, conflicts_with = "quiet")]
    pub(crate) json: bool,

    /// Print no summary
    #[arg(short, long)]
    pub(crate) quiet: bool,

    /// Exit with 1 where an address is rejected, or (review) is not accepted
    #[arg(long, value_name = "TROUBLE")]
    pub(crate) fail_on: Option<FailOn>,
}

/// How much of the machine is used.
#[derive(Debug, Args)]
#[command(next_help_heading = "Machine")]
pub(crate) struct MachineArguments {
    /// Worker threads [default: one for each core]
    #[arg(long, value_name = "N", value_parser = clap::value_parser!(u16).range(1..=256))]
    pub(crate) threads: Option<u16>,

    /// Octets of a chunk, so that tests meet every border
    #[arg(long, value_name = "N", hide = true)]
    pub(crate) chunk_octets: Option<usize>,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub(crate) enum FormatArgument {
    Csv,
    Tsv,
    Text,
    /// JSON, one object a line (only with --each)
    Jsonl,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub(crate) enum TextFormat {
    Text,
    Csv,
    Tsv,
    Html,
    Json,
    /// JSON, one value a line
    Jsonl,
    /// One mail message
    Eml,
    /// Mail messages one after the other
    Mbox,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub(crate) enum RowFormatArgument {
    Csv,
    Tsv,
    /// JSON, one object a line
    Jsonl,
    /// The bare addresses, one a line
    Plain,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub(crate) enum CheckFormat {
    Plain,
}

#[derive(Clone, Copy, Debug, ValueEnum)]
pub(crate) enum GrammarArgument {
    /// RFC 5321 Mailbox, with the UTF-8 of RFC 6531
    Smtp,
    /// RFC 5322 address, with comments, names, groups and obsolete forms
    Header,
    /// The valid e-mail address of the HTML standard
    Html,
}

impl From<GrammarArgument> for Grammar {
    fn from(argument: GrammarArgument) -> Self {
        match argument {
            GrammarArgument::Smtp => Grammar::Smtp,
            GrammarArgument::Header => Grammar::Header,
            GrammarArgument::Html => Grammar::Html,
        }
    }
}

impl FormatArgument {
    /// The format of a source; none for what is no format of sources.
    pub(crate) fn of_source(self) -> Option<Format> {
        match self {
            FormatArgument::Csv => Some(Format::Csv),
            FormatArgument::Tsv => Some(Format::Tsv),
            FormatArgument::Text => Some(Format::Text),
            FormatArgument::Jsonl => None,
        }
    }
}

#[derive(Clone, Copy, Debug, ValueEnum)]
pub(crate) enum SameArgument {
    /// The local part as written
    Exact,
    /// Letter case ignored
    Case,
    /// Letter case ignored, and what the domain's provider documents: dots, tags, joined domains
    Provider,
    /// Letter case, dots and everything from the first plus ignored, at every domain
    Everywhere,
}

impl From<SameArgument> for SameMailbox {
    fn from(argument: SameArgument) -> Self {
        match argument {
            SameArgument::Exact => SameMailbox::Exact,
            SameArgument::Case => SameMailbox::Case,
            SameArgument::Provider => SameMailbox::Provider,
            SameArgument::Everywhere => SameMailbox::Everywhere,
        }
    }
}

#[derive(Clone, Copy, Debug, ValueEnum)]
pub(crate) enum LetterCaseArgument {
    Lower,
    Keep,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub(crate) enum SharedArgument {
    /// It stays as well
    Keep,
    /// It goes like any other duplicate
    Drop,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub(crate) enum FailOn {
    Reject,
    Review,
}

fn delimiter(text: &str) -> Result<u8, String> {
    match text {
        "tab" | "\\t" | "\t" => Ok(b'\t'),
        _ => match text.as_bytes() {
            [byte] if byte.is_ascii_punctuation() || *byte == b' ' => Ok(*byte),
            _ => Err("give one character such as ‘;’, or the word tab".into()),
        },
    }
}

/// A size: octets, or with K, M or G behind.
fn octets(text: &str) -> Result<usize, String> {
    let upper = text.to_ascii_uppercase();
    let bare = upper.trim_end_matches("IB").trim_end_matches('B');
    let (number, unit) = match bare.chars().last() {
        Some('K') => (&bare[..bare.len() - 1], 1 << 10),
        Some('M') => (&bare[..bare.len() - 1], 1 << 20),
        Some('G') => (&bare[..bare.len() - 1], 1 << 30),
        _ => (bare, 1),
    };
    let size = number.trim().parse::<usize>().ok().and_then(|number| number.checked_mul(unit));
    size.ok_or_else(|| "give a size such as 256M or 2G".into())
}
