//! The jobs of Ypogram over whole sources: typed options in, typed reports out. They neither print nor parse arguments.
#![forbid(unsafe_code)]

mod annotate;
mod cell_addresses;
pub mod check;
pub mod clean;
mod columns;
mod conditions;
mod cut;
pub mod dedupe;
mod distinct;
pub mod each;
pub mod extract;
mod fields;
mod hash_sample;
mod judged_address;
mod layout;
mod line_count;
pub mod lists;
mod mailboxes;
mod numbers;
mod outcome;
mod person;
mod picking;
mod pipeline;
mod plain_row;
mod progress;
mod reading;
mod receipt;
mod selection;
pub mod split;
mod spool;
pub mod survey;
mod tally;

pub use columns::{Column, ColumnSet, Naming};
pub use conditions::Conditions;
pub use cut::Cut;
pub use distinct::DistinctCount;
pub use fields::{FieldChoice, FieldPlan, HowChosen};
pub use judged_address::{FindingOut, JudgedAddress, Keys};
pub use outcome::Outcome;
pub use progress::Progress;
pub use reading::SourceReport;
pub use receipt::{ListSummary, OutputReport, Receipt};
pub use selection::Selection;
pub use tally::{Example, Tally};
