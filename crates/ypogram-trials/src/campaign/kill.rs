//! Runs that are killed at random moments: the old or the new is there, never half; the same call succeeds afterwards and clears what was left.

use std::path::{Path, PathBuf};
use std::process::Stdio;
use std::time::{Duration, Instant};

use crate::Draw;
use crate::campaign::writers::{WRITERS, Writer, copy, litter};
use crate::campaign::{Outcome, Scale};
use crate::program::{command, said};

/// Rows of the lists: a run takes some tens of milliseconds.
const ROWS: usize = 2000;

type State = Vec<(PathBuf, Vec<u8>)>;

/// Kills runs of every command that writes.
pub fn run(scale: Scale) -> Outcome {
    let mut outcome = Outcome::default();
    let kills = scale.cases(120, 1000).div_ceil(WRITERS.len() as u64);
    for (nth, writer) in WRITERS.iter().enumerate() {
        let template = tempfile::tempdir().expect("a temporary folder");
        writer.prepare(template.path(), ROWS);
        let old = writer.state(template.path());
        let finished = tempfile::tempdir().expect("a temporary folder");
        copy(template.path(), finished.path());
        let begun = Instant::now();
        let made = started(finished.path(), writer.call).wait_with_output().expect("it ends");
        let takes = begun.elapsed();
        outcome.expect(matches!(made.status.code(), Some(0 | 1)), || {
            format!("kill: {}: {}", writer.call, said(&made))
        });
        let new = writer.state(finished.path());
        outcome.expect(new != old, || format!("kill: {} changes nothing", writer.call));
        for round in 0..kills {
            let mut draw = Draw::new(nth as u64 * 1_000_003 + round);
            let moment = takes.mul_f64(draw.below(1050) as f64 / 1000.0);
            one(writer, template.path(), (&old, &new), moment, &mut outcome);
        }
    }
    outcome
}

fn started(folder: &Path, call: &str) -> std::process::Child {
    let mut command = command(folder, call);
    command
        .env("TMPDIR", folder.join("tmp"))
        .stdin(Stdio::null())
        .stdout(Stdio::piped())
        .stderr(Stdio::piped());
    command.spawn().expect("it runs")
}

fn one(
    writer: &Writer,
    template: &Path,
    (old, new): (&State, &State),
    moment: Duration,
    outcome: &mut Outcome,
) {
    let folder = tempfile::tempdir().expect("a temporary folder");
    copy(template, folder.path());
    let mut child = started(folder.path(), writer.call);
    std::thread::sleep(moment);
    child.kill().expect("killed");
    let ended = child.wait_with_output().expect("it ends");
    outcome.count("kills");
    outcome.add("of them in mid-run", u64::from(ended.status.code().is_none()));
    let left = writer.state(folder.path());
    let here = || format!("kill: {}, after {} µs", writer.call, moment.as_micros());
    let is_whole = left == *old || left == *new;
    let is_each = left.iter().all(|file| old.contains(file) || new.contains(file));
    outcome.expect(if writer.is_whole { is_whole } else { is_each }, || {
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
