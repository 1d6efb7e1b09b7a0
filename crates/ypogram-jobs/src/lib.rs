//! The jobs of Ypogram over whole sources: typed options in, typed reports out. They neither print nor parse arguments.
#![forbid(unsafe_code)]

pub mod clean;
mod columns;
mod fields;
mod layout;
mod mailboxes;
mod outcome;
mod picking;
mod pipeline;
mod progress;
mod reading;
mod receipt;
mod tally;

pub use columns::{Column, ColumnSet};
pub use fields::{FieldChoice, FieldPlan, HowChosen};
pub use outcome::Outcome;
pub use progress::Progress;
pub use reading::SourceReport;
pub use receipt::{OutputReport, Receipt};
pub use tally::{Example, Tally};
