//! Runs that are stopped by signals, whose reader goes away, whose input changes while it is read, or whose clock goes back.

use std::io::{Read as _, Write as _};
use std::path::Path;
use std::process::Command;
use std::time::{Duration, Instant};

use crate::Draw;
use crate::campaign::writers::{Tried, WRITERS, copy, litter, started};
use crate::campaign::{Outcome, Scale};
use crate::program::{command, said};

/// Rows of the lists.
const ROWS: usize = 4000;

/// A run that takes longer is one that hangs.
const PATIENCE: Duration = Duration::from_secs(30);

/// Stops every command that writes, and more.
pub fn run(scale: Scale) -> Outcome {
    let mut outcome = Outcome::default();
    for (nth, writer) in WRITERS.iter().enumerate() {
        let tried = Tried::prepare(writer, ROWS, &mut outcome);
        for round in 0..scale.cases(4, 40) {
            let mut draw = Draw::new(nth as u64 * 7919 + round);
            let (signal, code) = *draw.of(&[("INT", 130), ("TERM", 143)]);
            let folder = tried.folder();
            let child = started(folder.path(), writer.call);
            std::thread::sleep(tried.takes.mul_f64(draw.below(1000) as f64 / 1000.0));
            let _ = Command::new("kill").args([&format!("-{signal}"), &child.id().to_string()]).status();
            let ended = child.wait_with_output().expect("it ends");
            outcome.count("signals");
            let here = || format!("stop: {} with SIG{signal}", writer.call);
            // Before its first line a run ends by the signal itself.
            let is_right =
                matches!(ended.status.code(), None | Some(0 | 1)) || ended.status.code() == Some(code);
            outcome.expect(is_right, || format!("{}: {:?} {}", here(), ended.status, said(&ended)));
            outcome.add("of them in mid-run", u64::from(ended.status.code() == Some(code)));
            let left = writer.state(folder.path());
            outcome.expect(tried.is_old_or_new(&left), || format!("{}: neither the old nor the new", here()));
            if ended.status.code().is_some() {
                let left = litter(folder.path());
                outcome.expect(left.is_empty(), || format!("{}: it left {left:?}", here()));
            }
        }
    }
    closed_pipes(&mut outcome);
    changing_inputs(scale, &mut outcome);
    clock_that_goes_back(&mut outcome);
    outcome
}

/// A reader that goes away after some bytes: the run ends soon, and quietly.
fn closed_pipes(outcome: &mut Outcome) {
    let folder = tempfile::tempdir().expect("a temporary folder");
    WRITERS[0].prepare(folder.path(), 60_000);
    for call in [
        "check list.csv",
        "dedupe list.csv -o -",
        "split list.csv",
        "extract list.csv",
        "extract list.csv --unique",
        "survey list.csv --show address=no",
        "check list.csv --to jsonl",
        "check list.csv --sort-by note --memory 1K",
        "compare list.csv --with known.csv --mark -o -",
        "domains list.csv -o -",
        "links list.csv -o -",
        "redact list.csv --as mask -o -",
        "rules",
        "lists show free",
    ] {
        for bytes in [0, 1, 5000] {
            let mut child = started(folder.path(), call);
            let mut reader = child.stdout.take().expect("a pipe");
            let mut some = vec![0; bytes];
            let _ = reader.read_exact(&mut some);
            drop(reader);
            let begun = Instant::now();
            while child.try_wait().expect("asked").is_none() && begun.elapsed() < PATIENCE {
                std::thread::sleep(Duration::from_millis(2));
            }
            let hangs = child.try_wait().expect("asked").is_none();
            let _ = child.kill();
            let ended = child.wait_with_output().expect("it ends");
            outcome.count("closed pipes");
            let text = String::from_utf8_lossy(&ended.stderr).into_owned();
            outcome
                .expect(!hangs && !text.contains("panicked") && !text.contains("fault of its own"), || {
                    format!("stop: {call}, its pipe closed after {bytes} bytes: hangs {hangs}: {text}")
                });
        }
    }
}

/// A source that is cut, grows, is replaced or goes away while it is read: an error or a result, never a crash, and nothing half.
fn changing_inputs(scale: Scale, outcome: &mut Outcome) {
    let template = tempfile::tempdir().expect("a temporary folder");
    WRITERS[0].prepare(template.path(), 30_000);
    let calls = [
        "clean list.csv -o new --force",
        "check list.csv -o new.csv --force",
        "dedupe list.csv -o new.csv --force --memory 1K",
        "extract list.csv -o new.csv --force",
        "survey list.csv",
    ];
    for round in 0..scale.cases(20, 200) {
        let mut draw = Draw::new(round);
        let folder = tempfile::tempdir().expect("a temporary folder");
        copy(template.path(), folder.path());
        let call = *draw.of(&calls);
        let child = started(folder.path(), call);
        std::thread::sleep(Duration::from_micros(draw.below(40_000) as u64));
        let source = folder.path().join("list.csv");
        let what = change(&source, &mut draw);
        let ended = child.wait_with_output().expect("it ends");
        outcome.count("changed inputs");
        let text = said(&ended);
        let here = || format!("stop: {call}, its source {what} ({round})");
        let is_calm = !text.contains("panicked") && !text.contains("fault of its own");
        outcome.expect(is_calm && matches!(ended.status.code(), Some(0..=3)), || {
            format!("{}: {:?} {text}", here(), ended.status)
        });
        let left = litter(folder.path());
        outcome.expect(left.is_empty(), || format!("{}: it left {left:?}", here()));
    }
}

fn change(source: &Path, draw: &mut Draw) -> &'static str {
    match draw.below(4) {
        0 => {
            let file = std::fs::OpenOptions::new().write(true).open(source).expect("opened");
            file.set_len(draw.below(200_000) as u64).expect("cut");
            "was cut"
        }
        1 => {
            let mut file = std::fs::OpenOptions::new().append(true).open(source).expect("opened");
            file.write_all(&b"zoe@h-works.org,later\n".repeat(500)).expect("grown");
            "grew"
        }
        2 => {
            let other = source.with_extension("other");
            std::fs::write(&other, "other\nzoe@h-works.org\n").expect("written");
            std::fs::rename(&other, source).expect("replaced");
            "was replaced"
        }
        _ => {
            std::fs::remove_file(source).expect("removed");
            "went away"
        }
    }
}

/// A library that gives the program another time of day.
const CLOCK: &str = "#define _GNU_SOURCE\n#include <dlfcn.h>\n#include <stdlib.h>\n#include <time.h>\n\
    int clock_gettime(clockid_t id, struct timespec *at) {\n  static int (*real)(clockid_t, struct timespec *);\n  \
    if (!real) real = dlsym(RTLD_NEXT, \"clock_gettime\");\n  int done = real(id, at);\n  const char *shift = getenv(\"TRIAL_CLOCK\");\n  \
    if (id == CLOCK_REALTIME && shift) at->tv_sec += atol(shift);\n  return done;\n}\n";

/// What was written ten years from now is read today.
fn clock_that_goes_back(outcome: &mut Outcome) {
    let folder = tempfile::tempdir().expect("a temporary folder");
    WRITERS[0].prepare(folder.path(), 200);
    let (code, library) = (folder.path().join("clock.c"), folder.path().join("clock.so"));
    std::fs::write(&code, CLOCK).expect("written");
    let built =
        Command::new("cc").args(["-shared", "-fPIC", "-o"]).args([&library, &code]).arg("-ldl").output();
    if !built.is_ok_and(|built| built.status.success()) {
        return outcome.left_out.push("a clock that goes back: there is no C compiler".into());
    }
    let rules = "version = 2\n[decisions]\nfile = \"decisions.csv\"\n";
    std::fs::write(folder.path().join("ypogram.toml"), rules).expect("written");
    for (call, again) in [
        ("register new all.register", "register stats all.register"),
        ("register add all.register known.csv", "register add all.register list.csv"),
        ("register withdraw all.register ada5@h-works.org", "register verify all.register"),
        ("clean list.csv -o dated", "settle dated --take likely"),
        ("clean list.csv -o later --force", "clean list.csv -o later --since later --force"),
        ("lists add own.txt late.example", "lists check own.txt"),
    ] {
        for (call, shift) in [(call, Some("315360000")), (again, None)] {
            let mut run = command(folder.path(), call);
            run.env("LD_PRELOAD", &library).envs(shift.map(|shift| ("TRIAL_CLOCK", shift)));
            let made = run.output().expect("it runs");
            outcome.count("runs with another clock");
            outcome.expect(matches!(made.status.code(), Some(0 | 1)), || {
                format!("stop: {call}, with the clock {}: {}", shift.map_or("back", |_| "ahead"), said(&made))
            });
        }
    }
}
