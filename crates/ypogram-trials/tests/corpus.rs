//! What fuzzing came upon, and the inputs that it begins with, hold in every build what its targets ask for.

#[allow(unreachable_pub, reason = "in the crate of the targets these are public")]
#[path = "../../../fuzz/src/lib.rs"]
mod fuzz;

use std::path::Path;

use fuzz::TARGETS;
use ypogram_trials::program::{run, said};

fn folder(name: &str) -> std::path::PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("../../fuzz").join(name)
}

fn names_in(name: &str) -> Vec<String> {
    let entries = std::fs::read_dir(folder(name)).expect("it is there");
    let mut names: Vec<String> =
        entries.map(|entry| entry.unwrap().file_name().into_string().unwrap()).collect();
    names.sort();
    names
}

#[test]
fn every_input_is_tried() {
    for (name, target) in TARGETS {
        let inputs = names_in(&format!("corpus/{name}"));
        assert!(!inputs.is_empty(), "{name}");
        for input in inputs {
            let bytes = std::fs::read(folder(&format!("corpus/{name}/{input}"))).expect("it is there");
            let tried = std::panic::catch_unwind(|| target(&bytes));
            assert!(tried.is_ok(), "fuzz/corpus/{name}/{input}");
        }
    }
}

#[test]
fn every_target_has_inputs_and_is_built() {
    let targets: Vec<String> =
        names_in("fuzz_targets").iter().map(|file| file.trim_end_matches(".rs").to_owned()).collect();
    assert_eq!(targets, names_in("corpus"));
    let listed: Vec<&str> = targets.iter().map(String::as_str).filter(|name| *name != "rulebook").collect();
    assert_eq!(listed, TARGETS.map(|(name, _)| name));
    let manifest = std::fs::read_to_string(folder("Cargo.toml")).unwrap();
    for name in &targets {
        assert!(manifest.contains(&format!("path = \"fuzz_targets/{name}.rs\"")), "{name}");
    }
}

/// A rulebook is read, or refused with what to do.
#[test]
fn every_rulebook_is_read_or_refused() {
    for input in names_in("corpus/rulebook") {
        let folder = tempfile::tempdir().expect("a temporary folder");
        std::fs::copy(self::folder(&format!("corpus/rulebook/{input}")), folder.path().join("rules.toml"))
            .expect("a copy");
        let checked = run(folder.path(), "rules check rules.toml");
        let is_refused = checked.status.code() == Some(2) && said(&checked).contains("→");
        assert!(checked.status.success() || is_refused, "{input}: {}", said(&checked));
    }
}
