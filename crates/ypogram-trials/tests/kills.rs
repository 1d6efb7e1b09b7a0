//! A run that is killed at any system call leaves the old result or the new one, and the same command runs again.

#![cfg(target_os = "linux")]

use std::collections::BTreeMap;
use std::io::{BufRead as _, BufReader, Write as _};
use std::path::{Path, PathBuf};
use std::process::{Command, Stdio};

use ypogram_trials::{Draw, cases, files, program, run, said};

const OLD: &str = "email,note\nada@h-works.org,old\nbea@h-works.org,\nno address,\ndora@gmial.com,\n";
const NEW: &str = "email,note\nada@h-works.org,new\nada@h-works.org,twice\ncleo@gmial.com,\nbroken@@h,\n";

/// The system calls that change what is there.
const CALLS: &str = "openat,write,writev,pwrite64,fsync,fdatasync,rename,renameat,renameat2,link,linkat,unlink,unlinkat,mkdir,mkdirat,rmdir,flock,fchmod,fchown,ftruncate,copy_file_range,close";

fn can_trace() -> bool {
    let traced =
        Command::new("strace").args(["-qq", "-o", "/dev/null", "-e", "trace=close", "true"]).status();
    traced.is_ok_and(|status| status.success())
}

/// Runs `call` and kills it at its `nth` call of those; whether it came to its end before.
fn run_killed_at(folder: &Path, call: &str, nth: u64) -> bool {
    let injected = format!("inject={CALLS}:signal=KILL:when={nth}");
    let traced = format!("trace={CALLS}");
    let mut command = Command::new("strace");
    command.args(["-f", "-qq", "-o", "/dev/null", "-e", &traced, "-e", &injected, "--"]);
    let output = command.arg(program()).args(call.split_whitespace()).current_dir(folder).output().unwrap();
    matches!(output.status.code(), Some(0..=3))
}

/// The files below `folder`, but for what a killed run may leave: partial files and the journal.
fn there(folder: &Path) -> BTreeMap<PathBuf, Vec<u8>> {
    let is_final = |path: &PathBuf| {
        let within = path.strip_prefix(folder).unwrap().to_string_lossy().into_owned();
        !within.contains("partial-") && !within.contains(".ypogram-publishing")
    };
    files(folder).into_iter().filter(|(path, _)| is_final(path)).collect()
}

fn without_receipt(mut all: BTreeMap<PathBuf, Vec<u8>>) -> BTreeMap<PathBuf, Vec<u8>> {
    all.retain(|path, _| !path.ends_with("receipt.json") && !path.ends_with("call.json"));
    all
}

const CLEAN: &str = "clean list.csv -o out --force --threads 1";
const CHECK: &str = "check list.csv -o out/rows.csv --force --threads 1";

#[test]
fn old_or_new_and_once_again() {
    if !can_trace() {
        return eprintln!("strace is not there, or may not trace: no run was killed");
    }
    for (before, call, out) in [
        (CLEAN, CLEAN, "out"),
        (CLEAN, "settle --take likely out", "out"),
        (CHECK, CHECK, "out"),
        ("", "lists add out/own.txt cleo.example", "out"),
    ] {
        // What is there before, and what a run that is not killed makes of it.
        let prepared = |list: &str| {
            let folder = tempfile::tempdir().unwrap();
            std::fs::write(folder.path().join("list.csv"), OLD).unwrap();
            std::fs::create_dir(folder.path().join("out")).unwrap();
            std::fs::write(folder.path().join("out/own.txt"), "ada.example\nbea.example\n").unwrap();
            if !before.is_empty() {
                let first = run(folder.path(), before);
                assert!(matches!(first.status.code(), Some(0 | 1)), "{call}: {}", said(&first));
            }
            std::fs::write(folder.path().join("list.csv"), list).unwrap();
            folder
        };
        let relative = |folder: &Path, all: BTreeMap<PathBuf, Vec<u8>>| -> BTreeMap<PathBuf, Vec<u8>> {
            let path = |path: PathBuf| path.strip_prefix(folder).unwrap().to_path_buf();
            all.into_iter().map(|(found, bytes)| (path(found), bytes)).collect()
        };
        let seen = |folder: &Path| relative(folder, without_receipt(there(&folder.join(out))));
        let old = prepared(NEW);
        let old_files = seen(old.path());
        let finished = prepared(NEW);
        run(finished.path(), call);
        let new_files = seen(finished.path());
        assert_ne!(old_files, new_files, "{call}");
        // Every call, or as many as there is time for, spread over the run.
        let mut nth = 1;
        let mut killed = 0;
        let step = (60 / cases(30)).max(1);
        loop {
            let folder = prepared(NEW);
            if run_killed_at(folder.path(), call, nth) {
                break;
            }
            killed += 1;
            let left = seen(folder.path());
            assert!(
                left == old_files || left == new_files,
                "{call}, killed at call {nth}: {:?}",
                left.keys()
            );
            let again = run(folder.path(), call);
            assert!(matches!(again.status.code(), Some(0 | 1)), "{call}, after call {nth}: {}", said(&again));
            assert_eq!(seen(folder.path()), new_files, "{call}, again after call {nth}");
            let all = files(folder.path());
            let partial = |path: &&PathBuf| path.to_string_lossy().contains("partial-");
            assert_eq!(all.keys().find(partial), None, "{call}, again after call {nth}: cleared");
            nth += step;
        }
        assert!(killed > 5, "{call}: {killed} calls");
    }
}

const JOB: &str = "version = 2\n[[job.j.step]]\ndo = \"clean\"\nsource = [\"list.csv\"]\noutput = \"out\"\n\
    [[job.j.step]]\ndo = \"check\"\nsource = [\"clean.kept\"]\nprefix = \"new_\"\noutput = \"rows.csv\"\n\
    [[job.j.step]]\nname = \"load\"\ndo = \"split\"\nsource = [\"clean.kept\"]\nparts = [\"domain=Domain\"]\noutput = \"shop.sqlite#kept\"\n";

/// What a killed run had begun to publish is finished by the next one, and each output is whole at any moment.
#[test]
fn a_killed_job_is_finished_by_the_next_run() {
    if !can_trace() {
        return eprintln!("strace is not there, or may not trace: no run was killed");
    }
    let call = "run j --force -q";
    let seen = |folder: &Path| -> Vec<Option<Vec<u8>>> {
        let files = ["out/kept.csv", "rows.csv"].iter().map(|name| std::fs::read(folder.join(name)).ok());
        let table = run(
            folder,
            "check shop.sqlite#kept --field email --prefix new_ --columns email,note,Domain --to csv",
        );
        files.chain([(!table.stdout.is_empty()).then_some(table.stdout)]).collect()
    };
    let prepared = || {
        let folder = tempfile::tempdir().unwrap();
        std::fs::write(folder.path().join("ypogram.toml"), JOB).unwrap();
        std::fs::write(folder.path().join("list.csv"), OLD).unwrap();
        let first = run(folder.path(), call);
        assert_eq!(first.status.code(), Some(0), "{}", said(&first));
        std::fs::write(folder.path().join("list.csv"), NEW).unwrap();
        folder
    };
    let old = seen(prepared().path());
    let finished = prepared();
    run(finished.path(), call);
    let new = seen(finished.path());
    assert!(old.iter().zip(&new).all(|(old, new)| old.is_some() && old != new));
    let step = (40 / cases(20)).max(1);
    let mut nth = 1;
    loop {
        let folder = prepared();
        if run_killed_at(folder.path(), call, nth) {
            break;
        }
        for (left, (old, new)) in seen(folder.path()).iter().zip(old.iter().zip(&new)) {
            assert!(left == old || left == new, "killed at call {nth}");
        }
        let again = run(folder.path(), call);
        assert_eq!(again.status.code(), Some(0), "after call {nth}: {}", said(&again));
        assert_eq!(seen(folder.path()), new, "again after call {nth}");
        let partial = |path: &&PathBuf| {
            path.to_string_lossy().contains("partial-") || path.to_string_lossy().contains(".ypogram-job-")
        };
        assert_eq!(files(folder.path()).keys().find(partial), None, "again after call {nth}: cleared");
        nth += step;
    }
    assert!(nth > 5 * step, "{nth} calls");
}

/// A register holds what it has answered, wherever it is killed, and the same once more ends in the same state.
#[test]
fn what_was_answered_as_admitted_is_in_the_register() {
    let addresses: Vec<String> = (0..120).map(|nth| format!("guest{nth}@h-works.org")).collect();
    for round in 0..cases(10) {
        let mut draw = Draw::new(round);
        let folder = tempfile::tempdir().unwrap();
        std::fs::write(folder.path().join("list.txt"), addresses.join("\n") + "\n").unwrap();
        assert_eq!(run(folder.path(), "register new all.register").status.code(), Some(0));
        let mut asked = Command::new(program())
            .args(["register", "ask", "all.register"])
            .current_dir(folder.path())
            .stdin(Stdio::piped())
            .stdout(Stdio::piped())
            .spawn()
            .unwrap();
        // It may be killed before it reads all.
        let mut input = asked.stdin.take().unwrap();
        let lines = addresses.join("\n") + "\n";
        let sent = std::thread::spawn(move || drop(input.write_all(lines.as_bytes())));
        let mut answers = BufReader::new(asked.stdout.take().unwrap()).lines();
        let mut admitted: Vec<String> = Vec::new();
        for _ in 0..draw.below(addresses.len()) {
            let Some(Ok(line)) = answers.next() else { break };
            let answer: serde_json::Value = serde_json::from_str(&line).unwrap();
            assert_eq!(answer["answer"], "admitted");
            admitted.push(answer["address"].as_str().unwrap().to_owned());
        }
        asked.kill().unwrap();
        asked.wait().unwrap();
        sent.join().unwrap();
        if !admitted.is_empty() {
            let look = run(folder.path(), &format!("register look all.register {}", admitted.join(" ")));
            assert_eq!(look.status.code(), Some(0), "{round}: {}", said(&look));
        }
        let verified = run(folder.path(), "register verify all.register");
        assert_eq!(verified.status.code(), Some(0), "{round}: {}", said(&verified));
        // A whole list is there or is not, whenever its run is killed.
        let before =
            run(folder.path(), "register list all.register").stdout.iter().filter(|b| **b == b'\n').count()
                - 1;
        let mut add = Command::new(program())
            .args(["register", "add", "all.register", "list.txt", "-q"])
            .current_dir(folder.path())
            .spawn()
            .unwrap();
        std::thread::sleep(std::time::Duration::from_micros(draw.below(60_000) as u64));
        add.kill().unwrap();
        add.wait().unwrap();
        let listed = || {
            run(folder.path(), "register list all.register").stdout.iter().filter(|b| **b == b'\n').count()
                - 1
        };
        assert!([before, addresses.len()].contains(&listed()), "{round}: {} of {before}", listed());
        let again = run(folder.path(), "register add all.register list.txt -q");
        assert_eq!((again.status.code(), listed()), (Some(0), addresses.len()), "{round}: {}", said(&again));
    }
}
