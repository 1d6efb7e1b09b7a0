//! Runs that are killed at random moments: the old or the new is there, never half; the same call succeeds afterwards and clears what was left.

use std::time::Duration;

use crate::Draw;
use crate::campaign::writers::{Tried, WRITERS, litter, started};
use crate::campaign::{Outcome, Scale};
use crate::program::said;

/// Rows of the lists: a run takes some tens of milliseconds.
const ROWS: usize = 2000;

/// Kills runs of every command that writes.
pub fn run(scale: Scale) -> Outcome {
    let mut outcome = Outcome::default();
    let kills = scale.cases(120, 1000).div_ceil(WRITERS.len() as u64);
    for (nth, writer) in WRITERS.iter().enumerate() {
        let tried = Tried::prepare(writer, ROWS, &mut outcome);
        for round in 0..kills {
            let mut draw = Draw::new(nth as u64 * 1_000_003 + round);
            // Some end before they are killed.
            one(&tried, tried.takes.mul_f64(draw.below(1050) as f64 / 1000.0), &mut outcome);
        }
    }
    outcome
}

fn one(tried: &Tried<'_>, moment: Duration, outcome: &mut Outcome) {
    let Tried { writer, old, new, .. } = tried;
    let folder = tried.folder();
    let mut child = started(folder.path(), writer.call);
    std::thread::sleep(moment);
    child.kill().expect("killed");
    let ended = child.wait_with_output().expect("it ends");
    outcome.count("kills");
    outcome.add("of them in mid-run", u64::from(ended.status.code().is_none()));
    let left = writer.state(folder.path());
    let here = || format!("kill: {}, after {} µs", writer.call, moment.as_micros());
    let is_whole = left == *old || left == *new;
    outcome.expect(if writer.is_whole { is_whole } else { tried.is_old_or_new(&left) }, || {
        format!(
            "{}: neither the old nor the new: {:?}",
            here(),
            left.iter().map(|(path, _)| path).collect::<Vec<_>>()
        )
    });
    let again = started(folder.path(), writer.call).wait_with_output().expect("it ends");
    outcome.expect(matches!(again.status.code(), Some(0 | 1)), || {
        format!("{}: once more: {}", here(), said(&again))
    });
    outcome.expect(writer.state(folder.path()) == *new, || format!("{}: once more: not the new", here()));
    let left = litter(folder.path());
    outcome.expect(left.is_empty(), || format!("{}: once more: left {left:?}", here()));
}
