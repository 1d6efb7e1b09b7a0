//! Faults on purpose, against the built program: random files held against an independent reader, kills at system calls, disks
//! that are full, and many runs at once.
//!
//! `cargo test -p ypogram-fault-tests` takes about a minute; `YPOGRAM_FAULT_CASES=2000` tries so many cases of each, for as long as
//! that takes. A case that fails names its number, and the same number is the same case again.
#![forbid(unsafe_code)]

use std::collections::BTreeMap;
use std::path::{Path, PathBuf};
use std::process::{Command, Output};
use std::sync::OnceLock;

/// The program, built now.
///
/// # Panics
/// Where it cannot be built.
pub fn program() -> &'static Path {
    static PROGRAM: OnceLock<PathBuf> = OnceLock::new();
    PROGRAM.get_or_init(|| {
        let cargo = std::env::var_os("CARGO").unwrap_or_else(|| "cargo".into());
        let built = Command::new(cargo).args(["build", "--quiet", "-p", "ypogram"]).status();
        assert!(built.expect("cargo runs").success(), "the program is built");
        let own = std::env::current_exe().expect("a path");
        let folder = own.ancestors().nth(2).expect("the folder of the profile");
        folder.join(format!("ypogram{}", std::env::consts::EXE_SUFFIX))
    })
}

/// As many cases as `few`, or as the environment asks for.
pub fn cases(few: u64) -> u64 {
    std::env::var("YPOGRAM_FAULT_CASES").ok().and_then(|number| number.parse().ok()).unwrap_or(few)
}

/// Numbers that look random and are the same for the same seed.
#[derive(Debug)]
pub struct Draw(u64);

impl Draw {
    /// From this seed.
    pub fn new(seed: u64) -> Self {
        Draw(seed.wrapping_mul(0x9E37_79B9_7F4A_7C15) ^ 0x5851_F42D_4C95_7F2D)
    }

    /// A number below `most`.
    pub fn below(&mut self, most: usize) -> usize {
        self.0 = self.0.wrapping_mul(6_364_136_223_846_793_005).wrapping_add(1_442_695_040_888_963_407);
        (self.0 >> 33) as usize % most
    }

    /// One of them.
    pub fn of<'i, T>(&mut self, items: &'i [T]) -> &'i T {
        &items[self.below(items.len())]
    }
}

/// Runs the program in `folder` with the words of `call`.
///
/// # Panics
/// Where it cannot be run.
pub fn run(folder: &Path, call: &str) -> Output {
    Command::new(program()).current_dir(folder).args(call.split_whitespace()).output().expect("it runs")
}

/// What it said on both streams, for messages.
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
