//! What was found of one address, in short.

use crate::data::providers::{Certainty, Operator};
use crate::model::class::Class;
use crate::model::codes::CodeSet;
use crate::model::repair::Repairs;
use crate::model::severity::Verdict;

/// What was found of one address.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Summary {
    /// The findings' codes.
    pub codes: CodeSet,
    /// The worst severity among them.
    pub verdict: Verdict,
    /// What kind of mailbox the domain gives.
    pub class: Option<Class>,
    /// How certain that is.
    pub certainty: Certainty,
    /// Who runs the domain.
    pub operator: Operator,
    /// What the standard form changes.
    pub repairs: Repairs,
    /// No syntax finding rejects it, so that there is a standard form.
    pub has_standard_form: bool,
}
