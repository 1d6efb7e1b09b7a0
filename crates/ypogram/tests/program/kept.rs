//! What is there is kept: no entry lost, no input written over, no device replaced, no folder half one result and half another.
#![cfg(unix)]

use std::fs;
use std::os::unix::fs::{FileTypeExt as _, MetadataExt as _, PermissionsExt as _, symlink};
use std::os::unix::process::ExitStatusExt as _;
use std::path::Path;
use std::process::{Command, Stdio};
use std::time::Duration;

use crate::{Place, table};

const PEOPLE: &[u8] =
    b"name,email\nAda,ada@fernhollow.example\nBo,bo@gmail.com\nAda,ada@fernhollow.example\nCy,nothing\n";
const RULES: &[u8] = b"[domains]\npublic = ['example']\n";

fn place() -> Place {
    Place::with(&[("ypogram.toml", RULES), ("u.csv", PEOPLE)])
}

fn program(place: &Place, call: &str) -> Command {
    let mut command = Command::new(assert_cmd::cargo::cargo_bin!("ypogram"));
    command.current_dir(place.path("")).args(call.split(' '));
    command.stdin(Stdio::null()).stdout(Stdio::null()).stderr(Stdio::null());
    command
}

fn mode(path: &Path) -> u32 {
    fs::metadata(path).unwrap().permissions().mode() & 0o777
}

#[test]
fn eight_at_once_lose_no_entry() {
    let place = place();
    fs::write(place.path("stop.txt"), "# told us to stop\n").unwrap();
    fs::set_permissions(place.path("stop.txt"), fs::Permissions::from_mode(0o600)).unwrap();
    let runs: Vec<_> = (0..8)
        .map(|nth| {
            let entries: Vec<String> = (0..10).map(|entry| format!("p{nth}-{entry}@gmail.com")).collect();
            program(&place, &format!("lists add stop.txt {}", entries.join(" "))).spawn().unwrap()
        })
        .collect();
    assert!(runs.into_iter().all(|mut run| run.wait().unwrap().success()));
    let list = place.read("stop.txt");
    assert_eq!(list.lines().filter(|line| line.contains('@')).count(), 80, "{list}");
    assert!(list.starts_with("# told us to stop\n"));
    assert_eq!(mode(&place.path("stop.txt")), 0o600, "who may read it stays");
}

#[test]
fn only_lists_are_changed_as_lists() {
    let place = place();
    let prose = "Dear members,\nthe dome is closed on Monday.\nBring warm clothes.\n";
    fs::write(place.path("letter.txt"), prose).unwrap();
    make_fifo(&place.path("pipe.txt"));
    for file in ["letter.txt", "pipe.txt"] {
        let run = place.run(&format!("lists add {file} anna@gmail.com"));
        assert!(run.code >= 2 && run.stderr.contains(file), "{file}: {} {}", run.code, run.stderr);
    }
    assert!(fs::metadata(place.path("pipe.txt")).unwrap().file_type().is_fifo());
    assert_eq!(place.read("letter.txt"), prose);
}

#[test]
fn an_output_is_never_an_input_or_another_output() {
    let place = place();
    fs::hard_link(place.path("u.csv"), place.path("same.csv")).unwrap();
    symlink("u.csv", place.path("link.csv")).unwrap();
    fs::create_dir(place.path("sub")).unwrap();
    fs::write(place.path("sub/in.csv"), PEOPLE).unwrap();
    let inputs = ["u.csv", "same.csv", "link.csv", "sub/in.csv", "ypogram.toml"];
    let before = inputs.map(|name| place.bytes(name));
    for call in [
        "dedupe u.csv -o a.csv --dropped ./a.csv",
        "dedupe u.csv -o a.csv --dropped sub/../a.csv",
        "dedupe u.csv -o a.csv --review a.csv",
        "extract u.csv -o u.csv --force",
        "extract u.csv -o ./same.csv --force",
        "check u.csv -o link.csv --force",
        "split u.csv -o sub/../u.csv --force",
        "survey u.csv --html u.csv --force",
        "check u.csv -o ypogram.toml --force",
        "extract sub -o sub/in.csv --force",
    ] {
        let run = place.run(call);
        assert_eq!(run.code, 2, "{call}: {}", run.stderr);
    }
    assert!(inputs.map(|name| place.bytes(name)) == before && !place.path("a.csv").exists());

    assert_eq!(place.run("clean u.csv -o out").code, 0);
    let before = place.tree("out");
    let run = place.run("clean out/kept.csv -o out --force");
    assert_eq!(run.code, 2, "{}", run.stderr);
    assert!(place.tree("out") == before);
}

#[test]
fn devices_stay_and_links_are_written_through() {
    let place = place();
    let expected = place.run("check u.csv -o -").stdout;
    assert!(expected.contains("ada@fernhollow.example"));

    fs::write(place.path("target.csv"), "old").unwrap();
    fs::set_permissions(place.path("target.csv"), fs::Permissions::from_mode(0o640)).unwrap();
    symlink("target.csv", place.path("link.csv")).unwrap();
    assert_eq!(place.run("check u.csv -o link.csv").code, 3, "it exists");
    assert_eq!(place.run("check u.csv -o link.csv --force").code, 0);
    assert!(fs::symlink_metadata(place.path("link.csv")).unwrap().is_symlink());
    assert_eq!(place.read("target.csv"), expected);
    assert_eq!(mode(&place.path("target.csv")), 0o640, "who may read it stays");

    make_fifo(&place.path("pipe"));
    let mut run = program(&place, "check u.csv -o pipe --force").spawn().unwrap();
    assert_eq!(place.read("pipe"), expected);
    assert!(run.wait().unwrap().success());
    assert!(fs::metadata(place.path("pipe")).unwrap().file_type().is_fifo());
}

fn make_fifo(path: &Path) {
    assert!(Command::new("mkfifo").arg(path).status().unwrap().success());
}

#[test]
fn a_folder_is_one_result_and_foreign_files_stay_in_it() {
    let place = place();
    let other = b"name,email\nDi,di@gmail.com\nEd,ed@gmail.com\n";
    fs::write(place.path("other.csv"), other).unwrap();
    assert_eq!(place.run("clean u.csv -o expected-u").code, 0);
    assert_eq!(place.run("clean other.csv -o expected-other").code, 0);
    assert_eq!(place.run("clean u.csv -o out").code, 0);
    fs::write(place.path("out/notes.txt"), "by hand").unwrap();
    fs::set_permissions(place.path("out"), fs::Permissions::from_mode(0o750)).unwrap();
    fs::set_permissions(place.path("out/kept.csv"), fs::Permissions::from_mode(0o640)).unwrap();

    let runs: Vec<_> = (0..8)
        .map(|nth| {
            let input = ["u.csv", "other.csv"][nth % 2];
            program(&place, &format!("clean {input} -o out --force")).spawn().unwrap()
        })
        .collect();
    for mut run in runs {
        assert!(run.wait().unwrap().success());
    }
    let of_rows = |folder: &str| -> Vec<_> {
        place
            .tree(folder)
            .into_iter()
            .filter(|(name, _)| name.extension().is_some_and(|e| e == "csv"))
            .collect()
    };
    let result = of_rows("out");
    assert!(
        result == of_rows("expected-u") || result == of_rows("expected-other"),
        "one result, not a mixture"
    );
    assert_eq!(place.read("out/notes.txt"), "by hand");
    assert_eq!((mode(&place.path("out")), mode(&place.path("out/kept.csv"))), (0o750, 0o640));
    let left: Vec<_> =
        fs::read_dir(place.path("")).unwrap().flatten().map(|entry| entry.file_name()).collect();
    assert!(!left.iter().any(|name| name.to_string_lossy().contains("partial")), "{left:?}");
}

#[test]
fn the_working_directory_is_written_into() {
    let place = place();
    fs::create_dir(place.path("here")).unwrap();
    let here = fs::metadata(place.path("here")).unwrap().ino();
    let run = |input: &str| {
        let mut command = program(&place, &format!("clean ../{input} -o . --force --no-rules"));
        command.current_dir(place.path("here")).status().unwrap().success()
    };
    fs::write(place.path("other.csv"), "name,email\nDi,di@gmail.com\n").unwrap();
    assert!(run("u.csv"));
    fs::write(place.path("here/notes.txt"), "by hand").unwrap();
    assert!(run("other.csv"));
    assert_eq!(table(&place.read("here/kept.csv"))[0]["email"], "di@gmail.com");
    assert_eq!(place.read("here/notes.txt"), "by hand");
    assert_eq!(fs::metadata(place.path("here")).unwrap().ino(), here, "it is the folder that it was");

    // A run that was killed while it put its outputs there: the next finishes it.
    let unfinished = place.path("here/.ypogram-publishing");
    fs::create_dir(&unfinished).unwrap();
    fs::write(unfinished.join("kept.csv"), "name,email\nFinished,fi@gmail.com\n").unwrap();
    fs::write(unfinished.join(".journal"), r#"{"removed":["rejected.csv"],"added":["kept.csv"]}"#).unwrap();
    fs::create_dir_all(place.path("elsewhere")).unwrap();
    let refused = place.run("clean u.csv -o here");
    assert_eq!(refused.code, 3, "{}", refused.stderr);
    assert!(place.read("here/kept.csv").contains("Finished"));
    assert!(!unfinished.exists() && !place.path("here/rejected.csv").exists());
}

#[test]
fn leftovers_of_killed_runs_are_cleared_and_those_of_running_ones_are_not() {
    let place = place();
    fs::create_dir(place.path("out")).unwrap();
    for left in [".out.partial-killed", ".out.partial-running"] {
        fs::create_dir(place.path(left)).unwrap();
        fs::write(place.path(left).join("kept.csv"), "somebody@gmail.com").unwrap();
    }
    fs::write(place.path(".rows.csv.partial-killed"), "somebody@gmail.com").unwrap();
    let running = fs::File::open(place.path(".out.partial-running")).unwrap();
    running.lock().unwrap();
    assert_eq!(place.run("clean u.csv -o out").code, 0);
    assert_eq!(place.run("check u.csv -o rows.csv").code, 0);
    assert!(!place.path(".out.partial-killed").exists() && !place.path(".rows.csv.partial-killed").exists());
    assert!(place.path(".out.partial-running/kept.csv").exists());
}

#[test]
fn signals_have_codes_of_their_own_and_end_every_wait() {
    let place = place();
    make_fifo(&place.path("silent"));
    make_fifo(&place.path("deaf"));
    let calls = ["check silent -o -", "dedupe silent -o a.csv", "clean silent -o b", "check u.csv -o deaf"];
    let runs: Vec<_> = [("INT", 130), ("TERM", 143)]
        .into_iter()
        .flat_map(|told| calls.map(|call| (call, told, program(&place, call).spawn().unwrap())))
        .collect();
    std::thread::sleep(Duration::from_millis(1500));
    for (call, (signal, code), mut run) in runs {
        assert_eq!(run.try_wait().unwrap(), None, "{call} waits");
        assert!(Command::new("kill").args(["-s", signal, &run.id().to_string()]).status().unwrap().success());
        let status = run.wait().unwrap();
        // One that was still starting ends by the signal itself, which a shell reports as the same code.
        let told = status.code().or(status.signal().map(|signal| 128 + signal));
        assert_eq!(told, Some(code), "{call} {signal}: {status}");
    }
    assert!(!place.path("a.csv").exists() && !place.path("b").exists());
}
