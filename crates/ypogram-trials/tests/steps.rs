//! A step of a job ends with the run whose step it is.

#![cfg(target_os = "linux")]

use std::path::Path;
use std::time::{Duration, Instant};

use ypogram_trials::campaign::writers::started;
use ypogram_trials::program;

const JOB: &str = "version = 2\n[[job.j.step]]\ndo = \"clean\"\nsource = [\"list.csv\"]\noutput = \"out\"\n";

/// The processes of the program that work in `folder` or below.
fn at_work(folder: &Path) -> Vec<u32> {
    let folder = folder.canonicalize().unwrap();
    let processes = std::fs::read_dir("/proc").unwrap().flatten();
    let numbers = processes.filter_map(|process| process.file_name().to_str()?.parse().ok());
    numbers
        .filter(|number: &u32| {
            let link = |name: &str| std::fs::read_link(format!("/proc/{number}/{name}"));
            link("exe").is_ok_and(|exe| exe == program())
                && link("cwd").is_ok_and(|working| working.starts_with(&folder))
        })
        .collect()
}

/// Waits until as many of its processes are at work as `is_right` wants.
fn wait_until(folder: &Path, is_right: impl Fn(usize) -> bool) -> bool {
    let begun = Instant::now();
    while begun.elapsed() < Duration::from_secs(20) {
        if is_right(at_work(folder).len()) {
            return true;
        }
        std::thread::sleep(Duration::from_millis(5));
    }
    false
}

#[test]
fn no_step_outlives_its_run() {
    let folder = tempfile::tempdir().unwrap();
    let place = folder.path();
    std::fs::create_dir(place.join("tmp")).unwrap();
    std::fs::write(place.join("ypogram.toml"), JOB).unwrap();
    // Enough for the step to be at work when its run is killed.
    let rows: String =
        (0..400_000).map(|nr| format!("{nr},Ada{nr} <ada{nr}@h-works{}.org>\n", nr % 977)).collect();
    std::fs::write(place.join("list.csv"), format!("nr,email\n{rows}")).unwrap();
    for round in 0..3 {
        let mut run = started(place, "run j --force");
        assert!(wait_until(place, |processes| processes == 2), "{round}: a run and its step");
        run.kill().unwrap();
        run.wait().unwrap();
        assert!(wait_until(place, |processes| processes == 0), "{round}: {:?} goes on", at_work(place));
        assert!(!place.join("out").exists(), "{round}: nothing is published");
    }
    // The next one does it all, and clears what was left.
    let done = started(place, "run j --force").wait_with_output().unwrap();
    assert_eq!(done.status.code(), Some(0), "{}", ypogram_trials::said(&done));
    let left = ypogram_trials::campaign::writers::litter(place);
    assert!(left.is_empty(), "{left:?}");
}
