//! What `rules export` takes.

use std::path::PathBuf;

use clap::{Args, ValueEnum};

use super::{JudgingArguments, PatternArguments, SelectionArguments};
use crate::house::HouseArguments;

#[derive(Debug, Args)]
#[command(after_help = "\
Examples:
  ypogram rules export --for html -o sign-up.html          an input, and a script that says what is wrong
  ypogram rules export --for sql --dialect postgres        conditions for CREATE TABLE
  ypogram rules export --for sql --dialect sqlite --table members -o members.sql
  ypogram rules export --for json-schema -o address.json
  ypogram rules export --for xlsx -o members.xlsx          a workbook; without -o the formula to paste
  ypogram rules export --for regex --flavour pcre --test-values values.tsv")]
pub(crate) struct RulesExportArguments {
    /// The place that gets the rule
    #[arg(long = "for", value_name = "PLACE")]
    pub(crate) place: PlaceArgument,

    /// Where it goes [default: standard output]
    #[arg(short, long, value_name = "FILE", help_heading = "Output")]
    pub(crate) output: Option<PathBuf>,

    /// Replace files that exist
    #[arg(long, help_heading = "Output")]
    pub(crate) force: bool,

    /// Print what the rule refuses and lets pass as JSON; the rule itself needs -o
    #[arg(long, help_heading = "Output", requires = "output")]
    pub(crate) json: bool,

    /// Write values to try the rule with, a line each: pass or fail, a tab, and the value as a JSON string
    #[arg(long, value_name = "FILE", help_heading = "Output")]
    pub(crate) test_values: Option<PathBuf>,

    /// About how many values
    #[arg(
        long,
        value_name = "COUNT",
        default_value_t = 400,
        requires = "test_values",
        help_heading = "Output"
    )]
    pub(crate) test_count: usize,

    /// With --for regex: whose expressions [default: pcre]
    #[arg(long, value_name = "FLAVOUR", help_heading = "Place")]
    pub(crate) flavour: Option<FlavourArgument>,

    /// With --for sql: whose SQL
    #[arg(long, value_name = "DIALECT", help_heading = "Place")]
    pub(crate) dialect: Option<DialectArgument>,

    /// With --for sql: the column of addresses [default: email]
    #[arg(long, value_name = "NAME", help_heading = "Place")]
    pub(crate) column: Option<String>,

    /// With --for sql: the table, where it is there already [default: lines for CREATE TABLE]
    #[arg(long, value_name = "NAME", help_heading = "Place")]
    pub(crate) table: Option<String>,

    /// With --for sql: the new column with the key of the mailbox [default: the column's with _key behind it]
    #[arg(long, value_name = "NAME", help_heading = "Place")]
    pub(crate) key_column: Option<String>,

    /// With --for xlsx: the first cell of the column that gets the formula [default: A2]
    #[arg(long, value_name = "CELL", help_heading = "Place")]
    pub(crate) cell: Option<String>,

    /// A finding that the rule need not refuse, such as unknown-tld, whose list is long; can be repeated
    #[arg(long, value_name = "FINDING", help_heading = "Judging")]
    pub(crate) let_pass: Vec<String>,

    #[command(flatten)]
    pub(crate) house: HouseArguments,

    #[command(flatten)]
    pub(crate) pattern: PatternArguments,

    #[command(flatten)]
    pub(crate) judging: JudgingArguments,

    #[command(flatten)]
    pub(crate) selection: SelectionArguments,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub(crate) enum PlaceArgument {
    /// An input of a web page, and a script that shows what is wrong while an address is typed
    Html,
    /// A column of a database: CHECK constraints, and a unique key of the mailbox
    Sql,
    /// A value of an API: JSON Schema 2020-12
    JsonSchema,
    /// A column of a workbook: a rule on its cells
    Xlsx,
    /// One regular expression
    Regex,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub(crate) enum FlavourArgument {
    /// Perl's, as in PCRE, grep -P, PHP and many others
    Pcre,
    /// JavaScript's; Python understands it as well
    Ecmascript,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub(crate) enum DialectArgument {
    Sqlite,
    Postgres,
    Mariadb,
}
