//! An output that cannot be written to its end leaves what was there, and says so.

#![cfg(unix)]

use std::path::Path;
use std::process::{Command, Output};

use ypogram_trials::{cases, files, program, run};

/// Runs the program where no file may have more than so many blocks of 512 bytes.
fn run_with_small_files(folder: &Path, blocks: u64, call: &str) -> Output {
    let script = format!("trap '' XFSZ; ulimit -f {blocks}; exec \"$@\"");
    let mut command = Command::new("sh");
    command.args(["-c", &script, "sh"]).arg(program()).args(call.split_whitespace());
    command.current_dir(folder).output().unwrap()
}

#[test]
fn what_was_there_stays() {
    let folder = tempfile::tempdir().unwrap();
    let path = |name: &str| folder.path().join(name);
    let list: String =
        (0..1500).map(|nr| format!("{nr},ada{nr}@h-works.org,{}\n", "x".repeat(nr % 50))).collect();
    std::fs::write(path("list.csv"), format!("nr,email,note\n{list}")).unwrap();
    std::fs::create_dir(path("out")).unwrap();
    std::fs::write(path("rows.csv"), "as it was\n").unwrap();
    for call in [
        "check list.csv -o rows.csv --force",
        "check list.csv -o rows.csv --force --sort-by -nr --memory 1K",
        "clean list.csv -o out --force",
        "clean list.csv -o out --force --memory 1K",
        "dedupe list.csv -o rows.csv --force --merge --memory 1K",
        "dedupe list.csv --groups rows.csv --force --memory 1K",
        "extract list.csv -o rows.csv --force --unique --memory 1K",
        "split list.csv -o rows.csv --force",
        "survey list.csv --html rows.csv --force",
    ] {
        let before = files(folder.path());
        let step = (150 / cases(5)).max(1) as usize;
        for blocks in (0..150).step_by(step) {
            let output = run_with_small_files(folder.path(), blocks, call);
            let told = String::from_utf8_lossy(&output.stderr);
            let code = output.status.code();
            if matches!(code, Some(0 | 1)) && blocks > 0 {
                break;
            }
            assert_eq!(code, Some(3), "{call}, {blocks} blocks: {told}");
            assert!(
                told.contains("cannot be written") || told.contains("temporary folder"),
                "{call}: {told}"
            );
            assert!(!told.contains("partial-") && !told.contains("os error"), "{call}: {told}");
            assert_eq!(files(folder.path()), before, "{call}, {blocks} blocks");
        }
        let done = run(folder.path(), call);
        assert!(matches!(done.status.code(), Some(0 | 1)), "{call}");
        std::fs::write(path("rows.csv"), "as it was\n").unwrap();
    }
}

/// A file system that really is full, where one can be made.
#[test]
#[cfg(target_os = "linux")]
fn a_disk_that_is_full() {
    let folder = tempfile::tempdir().unwrap();
    let small = folder.path().join("small");
    std::fs::create_dir(&small).unwrap();
    let mounted = Command::new("mount").args(["-t", "tmpfs", "-o", "size=64k", "tmpfs"]).arg(&small).output();
    if !mounted.is_ok_and(|output| output.status.success()) {
        return eprintln!("no file system can be mounted here: no disk was full");
    }
    let list: String = (0..4000).map(|nr| format!("{nr},ada{nr}@h-works.org\n")).collect();
    std::fs::write(folder.path().join("list.csv"), format!("nr,email\n{list}")).unwrap();
    let told = |call: &str, tmp: Option<&Path>| {
        let mut command = Command::new(program());
        command.args(call.split_whitespace()).current_dir(folder.path());
        command.envs(tmp.map(|tmp| ("TMPDIR", tmp)));
        let output = command.output().unwrap();
        (output.status.code(), String::from_utf8_lossy(&output.stderr).into_owned())
    };
    let outputs = [
        told("check list.csv -o small/rows.csv", None),
        told("clean list.csv -o small/out", None),
        told("extract list.csv --unique -o small/rows.csv", None),
    ];
    let temporary = [
        told("check list.csv -o rows.csv --sort-by nr --memory 1K", Some(&small)),
        told("extract list.csv --unique -o rows.csv --memory 1K", Some(&small)),
        told("dedupe list.csv -o rows.csv --memory 1K --survivor last", Some(&small)),
    ];
    let left = files(&small);
    let unmounted = Command::new("umount").arg(&small).status().unwrap();
    for (code, message) in outputs {
        assert_eq!(code, Some(3), "{message}");
        assert!(message.contains("the disk is full") && message.contains("make room"), "{message}");
    }
    for (code, message) in temporary {
        assert_eq!(code, Some(3), "{message}");
        assert!(message.contains("the temporary folder is full") && message.contains("TMPDIR"), "{message}");
    }
    assert!(left.is_empty() && !folder.path().join("rows.csv").exists(), "{left:?}");
    assert!(unmounted.success());
}
