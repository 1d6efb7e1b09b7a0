//! The built program, and what came of a run.

use std::collections::BTreeMap;
use std::path::{Path, PathBuf};
use std::process::{Command, Output};
use std::sync::OnceLock;

/// The program, built now in the profile of the caller; or the one that the variable `YPOGRAM` names.
///
/// # Panics
/// Where it cannot be built.
pub fn program() -> &'static Path {
    static PROGRAM: OnceLock<PathBuf> = OnceLock::new();
    PROGRAM.get_or_init(|| {
        if let Some(named) = std::env::var_os("YPOGRAM") {
            return std::path::absolute(PathBuf::from(named)).expect("a path");
        }
        let own = std::env::current_exe().expect("a path");
        let is_profile = |folder: &&Path| folder.ends_with("debug") || folder.ends_with("release");
        let folder = own.ancestors().find(is_profile).expect("the folder of the profile");
        let release = folder.ends_with("release").then_some("--release");
        let cargo = std::env::var_os("CARGO").unwrap_or_else(|| "cargo".into());
        let built = Command::new(cargo).args(["build", "--quiet", "-p", "ypogram"]).args(release).status();
        assert!(built.expect("cargo runs").success(), "the program is built");
        folder.join(format!("ypogram{}", std::env::consts::EXE_SUFFIX))
    })
}

/// As many cases as `few`, or as the environment asks for.
pub fn cases(few: u64) -> u64 {
    std::env::var("YPOGRAM_FAULT_CASES").ok().and_then(|number| number.parse().ok()).unwrap_or(few)
}

/// A call of the program in `folder` with the words of `call`.
pub fn command(folder: &Path, call: &str) -> Command {
    let mut command = Command::new(program());
    command.current_dir(folder).args(call.split_whitespace());
    command
}

/// Runs the program in `folder` with the words of `call`.
///
/// # Panics
/// Where it cannot be run.
pub fn run(folder: &Path, call: &str) -> Output {
    command(folder, call).output().expect("it runs")
}

/// What it wrote on both streams, for messages.
pub fn said(output: &Output) -> String {
    format!("{}{}", String::from_utf8_lossy(&output.stdout), String::from_utf8_lossy(&output.stderr))
}

/// Every file below `folder`, with its bytes.
pub fn files(folder: &Path) -> BTreeMap<PathBuf, Vec<u8>> {
    let mut all = BTreeMap::new();
    for entry in std::fs::read_dir(folder).into_iter().flatten().flatten() {
        let path = entry.path();
        if path.is_dir() {
            all.extend(files(&path));
        } else {
            all.insert(path.clone(), std::fs::read(&path).unwrap_or_default());
        }
    }
    all
}
