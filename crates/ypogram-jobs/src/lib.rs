//! The jobs of Ypogram over whole sources: typed options in, typed reports out. They neither print nor parse arguments.
#![forbid(unsafe_code)]

pub mod decisions;
mod duplicates;
mod engine;
mod jobs;
mod judge;
pub mod lists;
mod plan;
#[cfg(feature = "sqlite")]
mod sql;

pub use duplicates::merge::FilledCount;
pub use duplicates::survivor::Survivor;
pub use engine::distinct::DistinctCount;
pub use engine::header_cells::sort_of_cell;
pub use engine::progress::Progress;
pub use engine::quoted_list;
pub use engine::reading::SourceReport;
pub use engine::spool::keep_what_is_read_once;
pub use jobs::book;
pub use jobs::bounces;
pub use jobs::check;
pub use jobs::clean;
pub use jobs::compare;
pub use jobs::dedupe;
pub use jobs::dns;
pub use jobs::domains;
pub use jobs::each;
pub use jobs::export;
pub use jobs::extract;
#[cfg(feature = "sqlite")]
pub use jobs::guard;
pub use jobs::learn_house;
pub use jobs::links;
pub use jobs::receipt::{LAYOUT, ListSummary, OutputReport, Receipt};
pub use jobs::redact;
#[cfg(feature = "sqlite")]
pub use jobs::register;
pub use jobs::settle;
pub use jobs::survey;
#[cfg(feature = "worker")]
pub use jobs::worker;
pub use judge::conditions::Conditions;
pub use judge::decided::DecidedRecord;
pub use judge::house_clashes::HouseClash;
pub use judge::judged_address::{FindingOut, JudgedAddress, Keys};
pub use judge::selection::Selection;
pub use judge::tally::{Example, Lookup, Tally};
pub use plan::columns::{Column, ColumnSet, Naming};
pub use plan::compose::Composed;
pub use plan::contact_trait::ContactTrait;
pub use plan::cut::Cut;
pub use plan::date_order::day_first_key;
pub use plan::field_rules::{Allowed, Asked, FieldKind, FieldRule};
pub use plan::fields::{FieldChoice, FieldPlan, HowChosen};
pub use plan::house::{BesideAddress, HouseFormats};
pub use plan::house_pattern::{HousePattern, PatternOf, missed};
pub use plan::outcome::Outcome;
pub use plan::read_columns::ReadColumns;
pub use plan::shared::Shared;
pub use plan::shown_record::ShownRecord;
pub use plan::split;
