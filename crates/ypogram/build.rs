//! Tells the program the commit that it is built from, where it is built from one.

use std::process::Command;

fn main() {
    println!("cargo:rerun-if-changed=build.rs");
    let git = |words: &[&str]| {
        let output =
            Command::new("git").args(words).output().ok().filter(|output| output.status.success())?;
        Some(String::from_utf8_lossy(&output.stdout).trim().to_owned())
    };
    // Which commit that is changes with the file that HEAD names.
    for name in ["HEAD", "logs/HEAD"] {
        if let Some(path) = git(&["rev-parse", "--git-path", name]) {
            println!("cargo:rerun-if-changed={path}");
        }
    }
    let commit = git(&["rev-parse", "--short=12", "HEAD"]).unwrap_or_default();
    println!("cargo:rustc-env=YPOGRAM_COMMIT={commit}");
}
