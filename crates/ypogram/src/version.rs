//! What `--version` says: the version, and what else tells two programs of one version apart.

use std::ffi::OsString;
use std::sync::LazyLock;

use clap::Command;
use ypogram_core::REFERENCE_DATE;

use crate::old_lists;

static LONG: LazyLock<String> = LazyLock::new(|| {
    let commit = match env!("YPOGRAM_COMMIT") {
        "" => "not built from a repository",
        commit => commit,
    };
    let mut lines = vec![
        env!("CARGO_PKG_VERSION").to_owned(),
        format!("commit: {commit}"),
        format!("reference data: {REFERENCE_DATE}"),
        format!("features: {}", features().join(", ")),
    ];
    lines.extend(old_lists::built_in());
    lines.join("\n")
});

/// The command line with all of it, where `words` ask for it.
pub(crate) fn added(command: Command, words: &[OsString]) -> Command {
    match words.iter().any(|word| word == "--version") {
        true => command.long_version(&**LONG),
        false => command,
    }
}

fn features() -> Vec<&'static str> {
    let all = [
        ("dns", cfg!(feature = "dns")),
        ("mysql", cfg!(feature = "mysql")),
        ("parquet", cfg!(feature = "parquet")),
        ("postgres", cfg!(feature = "postgres")),
        ("spreadsheet", cfg!(feature = "spreadsheet")),
        ("sqlite", cfg!(feature = "sqlite")),
        ("worker", cfg!(feature = "worker")),
    ];
    all.into_iter().filter(|(_, is_in)| *is_in).map(|(name, _)| name).collect()
}
