//! Records judged for what follows from all of them, such as their keys, before any is written.

use ypogram_io::{Result, RowSpec};

use crate::engine::pipeline::{self, Work as _};
use crate::engine::progress::Progress;
use crate::engine::reading::{Reading, Task};
use crate::judge::annotate::{Annotator, Judging, Part, RowPlan, Wanted};
use crate::plan::columns::{ColumnSet, Naming};
use crate::plan::layout::OutputLayout;

/// Judges every record of `reading` without encoding a row of it, and hands the parts to `take` in their order; with `keys_only` the
/// address and the key of each are worked out, and nothing else.
///
/// # Errors
/// Where the source breaks off, somebody asked to stop, and those of `take`.
pub(crate) fn judge_all(
    reading: &mut Reading,
    judging: Judging<'_>,
    (wanted, keys_only): (&Wanted, bool),
    (threads, progress): (usize, &Progress),
    take: impl FnMut(&Task, &mut Part) -> Result<()> + Send,
) -> Result<()> {
    let layout = OutputLayout::of(reading, judging.plan, None);
    let columns = ColumnSet::new(Vec::new(), Naming::with(""), &judging.plan.fields)?;
    let projection = layout.projection(&columns, &RowSpec::default())?;
    let rows = RowPlan {
        layout: &layout,
        columns: &columns,
        projection: &projection,
        review: None,
        by_outcome: true,
    };
    let workers =
        Annotator::for_threads(threads, reading, judging, &rows, wanted)?.into_iter().map(|mut worker| {
            worker.keys_only = keys_only;
            move |task: &mut Task, part: &mut Part| worker.judge(task, part)
        });
    pipeline::run_in_order(reading, workers.collect(), progress, take)
}
