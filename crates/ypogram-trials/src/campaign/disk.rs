//! Disks that are full, read-only or out of inodes, and outputs that fail: the run says so and what to do, and what was there stays.

use std::path::Path;
use std::process::{Command, Stdio};

use crate::campaign::writers::{WRITERS, Writer, copy, litter};
use crate::campaign::{Outcome, Scale};
use crate::program::{command, said};

/// Rows of the lists: the outputs have some hundreds of kilobytes.
const ROWS: usize = 4000;

/// File systems in memory on which outputs do not end well: how they are mounted, and what becomes of them once all is there.
const DISKS: [(&str, &str, Option<&str>); 3] = [
    ("full", "size=SIZE", None),
    ("out of inodes", "nr_inodes=INODES", None),
    ("read-only", "size=64m", Some("remount,ro")),
];

/// Lets every command that writes meet each of them.
pub fn run(_: Scale) -> Outcome {
    let mut outcome = Outcome::default();
    for writer in &WRITERS {
        let template = tempfile::tempdir().expect("a temporary folder");
        writer.prepare(template.path(), ROWS);
        for disk in &DISKS {
            on_disk(writer, template.path(), disk, &mut outcome);
        }
        to_full_output(writer, template.path(), &mut outcome);
    }
    outcome
}

fn mount(options: &str, place: &Path) -> bool {
    let done = Command::new("mount").args(["-t", "tmpfs", "-o", options, "tmpfs"]).arg(place).output();
    done.is_ok_and(|output| output.status.success())
}

fn on_disk(
    writer: &Writer,
    template: &Path,
    (name, options, then): &(&str, &str, Option<&str>),
    outcome: &mut Outcome,
) {
    let folder = tempfile::tempdir().expect("a temporary folder");
    let place = folder.path();
    // So much is there already; what the call adds does not fit.
    let there = crate::program::files(template);
    let bytes: usize = there.values().map(|bytes| bytes.len().div_ceil(4096) * 4096).sum();
    let entries = there.len() + 12;
    let options =
        options.replace("SIZE", &(bytes + 8192).to_string()).replace("INODES", &entries.to_string());
    if !mount(&options, place) {
        let why = format!("{name}: no file system can be mounted here");
        if !outcome.left_out.contains(&why) {
            outcome.left_out.push(why);
        }
        return;
    }
    copy(template, place);
    // All inodes are taken, so that not one file can be made.
    if options.contains("inodes") {
        (0..64).take_while(|nth| std::fs::write(place.join(format!("tmp-{nth}")), "").is_ok()).count();
    }
    if let Some(then) = then {
        Command::new("mount").args(["-o", then]).arg(place).status().expect("mounted again");
    }
    let old = writer.state(place);
    let temporary = tempfile::tempdir().expect("a temporary folder");
    let made = command(place, writer.call)
        .env("TMPDIR", temporary.path())
        .stdin(Stdio::null())
        .output()
        .expect("it runs");
    outcome.count("failing disks");
    let here = || format!("disk: {} on a disk that is {name}", writer.call);
    let code = made.status.code();
    let text = said(&made);
    // A short output may still fit.
    match code {
        Some(0 | 1) => outcome.count("outputs that fitted"),
        _ => {
            outcome
                .expect(matches!(code, Some(2 | 3)), || format!("{}: it ends with {code:?}: {text}", here()));
            outcome
                .expect(text.contains('→'), || format!("{}: it does not say what to do: {text}", here()));
            outcome.expect(writer.state(place) == old, || {
                format!("{}: what was there is not what it was", here())
            });
            let left: Vec<_> =
                litter(place).into_iter().filter(|path| !path.to_string_lossy().contains("/tmp/")).collect();
            outcome.expect(left.is_empty(), || format!("{}: it left {left:?}", here()));
        }
    }
    let left = std::fs::read_dir(temporary.path()).into_iter().flatten().count();
    outcome.expect(left == 0, || format!("{}: it left temporary files", here()));
    outcome.expect(Command::new("umount").arg(place).status().is_ok_and(|done| done.success()), || {
        format!("{}: its disk is still in use", here())
    });
}

/// Standard output that takes nothing: a run says that it could not be written, and no run hangs or breaks.
fn to_full_output(writer: &Writer, template: &Path, outcome: &mut Outcome) {
    let Ok(full) = std::fs::OpenOptions::new().write(true).open("/dev/full") else { return };
    let folder = tempfile::tempdir().expect("a temporary folder");
    copy(template, folder.path());
    let made = command(folder.path(), writer.call)
        .env("TMPDIR", folder.path().join("tmp"))
        .stdin(Stdio::null())
        .stdout(full)
        .output()
        .expect("it runs");
    outcome.count("full standard outputs");
    let (code, text) = (made.status.code(), said(&made));
    outcome.expect(code == Some(3) && text.contains("standard output"), || {
        format!("disk: {} to a standard output that is full: {code:?} {text}", writer.call)
    });
}
