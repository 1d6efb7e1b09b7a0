//! What makes records duplicates and which of them stays, told of each record alone, so that an engine brings them together.

use std::io::Write;

use ypogram_core::Hasher;
use ypogram_io::{ArrowBatches, ColumnType, Error, Result, Source as _};

use crate::duplicates::survivor::Survivor;
use crate::engine::pipeline::{self, Flow};
use crate::engine::progress::Progress;
use crate::engine::reading::{Reading, Task};
use crate::jobs::check::CheckOptions;
use crate::jobs::dedupe::part::Part;
use crate::jobs::dedupe::worker::{Asked, Noted, Worker};
use crate::plan::fields::FieldPlan;
use crate::plan::person::PersonFields;
use crate::plan::same_fields::SameFields;

/// What makes records duplicates, and which of them stays.
#[derive(Clone, Debug)]
pub struct RankOptions {
    /// Which record of a group stays; first and last are what the engine makes of them.
    pub survivor: Survivor,
    /// Fields that must be equal too.
    pub by: Vec<String>,
    /// Fields within whose values duplicates are looked for.
    pub within: Vec<String>,
    /// The key of hashes, the same for all workers whose records are brought together.
    pub hash_key: u64,
}

/// The columns that are told, with their types.
pub(super) fn columns(prefix: &str) -> Vec<(String, ColumnType)> {
    ["group", "rank"].map(|name| (format!("{prefix}{name}"), ColumnType::Text)).into()
}

/// Answers each batch with a column of what duplicates have in common, and one that is greatest for the record that stays.
///
/// # Errors
/// Where the input breaks off, a field does not exist or means several things, or nothing can be written.
pub(super) fn run<W: Write + Send>(
    ranks: RankOptions,
    check: CheckOptions,
    batches: ArrowBatches,
    output: W,
    progress: &Progress,
) -> Result<u64> {
    refuse_texts(&ranks.survivor, &batches)?;
    let answerer = batches.answerer();
    let names: Vec<String> = columns(&check.prefix).into_iter().map(|(name, _)| name).collect();
    let mut answers = answerer.texts(output, &names)?;
    let mut reading = Reading::of(Box::new(batches));
    let plan = FieldPlan::settle(&mut reading, &check.fields, &check.policy)?;
    let asked = Asked {
        plan: &plan,
        policy: &check.policy,
        hasher: Hasher::with_key(ranks.hash_key),
        same: SameFields::settle(&ranks.by, &ranks.within, &plan, &reading)?,
        scoring: ranks.survivor.settle(&plan, &mut reading)?,
        persons: PersonFields::default(),
        texts_by_person: false,
        near: false,
        lines: false,
        compare_rules: false,
    };
    let threads = check.threads.max(1);
    let workers: Vec<_> = (0..threads).map(|_| Worker::new(&reading, &asked, Noted::Nothing, None)).collect();
    let mut records = 0;
    let settle = |_: &Task, part: &mut Part| {
        records += part.rows.len() as u64;
        Ok(Flow::GoOn)
    };
    let write = |_: &Task, part: &mut Part| {
        let groups = part.rows.iter().map(|row| (row.hash != 0).then(|| format!("{:032x}", row.hash)));
        // As many digits for all, so that they are in order as texts.
        let ranks = (0..part.rows.len()).map(|nth| Some(format!("{:020}", part.weight(nth).score)));
        answers.answer_with(vec![groups.collect(), ranks.collect()])
    };
    pipeline::run(&mut reading, workers, progress, settle, write)?;
    answers.finish()?;
    Ok(records)
}

/// The order of texts that are dates depends on all of them, of which a worker sees a part.
fn refuse_texts(survivor: &Survivor, batches: &ArrowBatches) -> Result<()> {
    let (Survivor::Newest(field) | Survivor::Oldest(field)) = survivor else { return Ok(()) };
    let schema = batches.schema();
    let place = schema.fields.iter().position(|known| known == field);
    match place.and_then(|place| schema.types.get(place)) {
        Some(ColumnType::Text) => Err(Error::unusable(
            format!("the column ‘{field}’ holds texts, which may mean several dates"),
            "cast it to a date, a time or a number first",
        )),
        _ => Ok(()),
    }
}
