//! What `survey` is asked for.

use std::path::PathBuf;

use ypogram_core::Policy;
use ypogram_io::OpenOptions;

use crate::judge::conditions::Conditions;
use crate::plan::field_rules::FieldRule;
use crate::plan::fields::FieldChoice;
use crate::plan::house_pattern::HousePattern;

/// What `survey` is asked to do.
#[derive(Debug)]
pub struct SurveyOptions {
    /// The files to read one after the other; `-` is standard input.
    pub sources: Vec<PathBuf>,
    /// How to open them.
    pub open: OpenOptions,
    /// The fields to look at.
    pub fields: FieldChoice,
    /// How to judge.
    pub policy: Policy,
    /// Survey only the records that meet these.
    pub only: Option<Conditions>,
    /// Patterns that the cells of all fields are held against.
    pub patterns: Vec<HousePattern>,
    /// What is asked of fields other than the address.
    pub field_rules: Vec<FieldRule>,
    /// Bytes of memory that may be taken for that.
    pub memory: usize,
    /// Shapes down to letters and digits.
    pub fine: bool,
    /// Worker threads.
    pub threads: usize,
}
