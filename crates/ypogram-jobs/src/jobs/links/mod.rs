//! Who shares what: addresses, local parts, domains and the values of further fields as a graph.

mod behind;
mod counted;
mod drawn;
mod files;
mod gathered;
mod graph;
mod node;
mod options;
mod parts;
mod report;
mod values;

use ypogram_io::Result;

use crate::engine::progress::Progress;
use graph::{Graph, Shared};
pub use node::NodeKind;
pub use options::{GraphTarget, LinksOptions};
use parts::Parts;
pub use report::{
    Behind, BehindRow, Drawn, DrawnGroup, DrawnNode, KindReport, LinksReport, OddRow, ShareRow, SharedRow,
    SizeRow,
};

/// Reads the sources, and tells which addresses share what; writes the graph where that is asked for.
///
/// # Errors
/// Where a source is unusable or breaks off, a field does not exist, the graph takes more memory than it may, or a file cannot be
/// written.
pub fn run(options: &LinksOptions, progress: &Progress) -> Result<LinksReport> {
    let mut report = LinksReport::default();
    let graph = Graph::of(gathered::gather(options, progress, &mut report)?);
    let parts = Parts::of(&graph, Shared::joins);
    counted::count(&graph, &parts, &mut report);
    let behind = options.behind.as_ref().and_then(|text| behind::of(text, &graph));
    if options.behind.is_some() && behind.is_none() {
        return Ok(report);
    }
    let wanted = behind.as_ref().map(|(_, wanted)| wanted);
    report.written = files::write(&options.graph, &graph, &parts, wanted)?;
    report.drawn = (options.drawn > 0).then(|| drawn::of(&graph, &parts, wanted, options.drawn));
    report.behind = behind.map(|(behind, _)| behind);
    Ok(report)
}
