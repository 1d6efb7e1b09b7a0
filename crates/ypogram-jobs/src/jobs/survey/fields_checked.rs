//! The sources of a survey opened, and what is asked of their fields made ready.

use std::sync::Arc;

use tempfile::TempDir;
use ypogram_core::Hasher;
use ypogram_io::{Result, temporary_folder};

use crate::engine::progress::Progress;
use crate::engine::reading::Reading;
use crate::jobs::checked_fields::{self, Beforehand};
use crate::jobs::survey::options::SurveyOptions;
use crate::judge::checked_fields::CheckedFields;
use crate::plan::fields::FieldPlan;

/// The sources of a survey, ready to be read.
pub(super) struct Opened {
    pub(super) reading: Reading,
    pub(super) plan: FieldPlan,
    pub(super) fields: CheckedFields,
    /// Where what can be read but once is kept.
    pub(super) temporary: Arc<TempDir>,
}

impl Opened {
    /// Opens them; they are read once before where values may not repeat.
    ///
    /// # Errors
    /// Where a source is unusable or breaks off, or a field does not exist.
    pub(super) fn open(options: &SurveyOptions, progress: &Progress) -> Result<Self> {
        let temporary = Arc::new(temporary_folder()?);
        let open =
            checked_fields::open_for(&options.field_rules, &options.sources, &options.open, &temporary)?;
        let mut reading = Reading::open(&options.sources, &open)?;
        let plan = FieldPlan::settle(&mut reading, &options.fields, &options.policy)?;
        let beforehand = Beforehand {
            sources: &options.sources,
            open: &open,
            memory: options.memory,
            temporary: &temporary,
            threads: options.threads,
            progress,
            hasher: Hasher::with_key(0),
        };
        let fields =
            checked_fields::prepare(&options.field_rules, &plan, &mut reading, &options.policy, &beforehand)?;
        Ok(Opened { reading, plan, fields, temporary })
    }
}
