//! What the fuzz targets in `fuzz/` reach of this crate. It is there under `cargo fuzz` alone.

use crate::{job, rulebook, settings};

/// Reads the rulebook that `text` may be, and all that is in it.
pub fn read_rulebook(text: &str) {
    let name = "fuzzed.toml";
    let Ok(rulebook) = rulebook::read(text, name) else { return };
    let _ = (settings::policy_of(&rulebook), rulebook.field_rules(), rulebook.patterns_named(&[]));
    let _ = rulebook.house.formats(&[], &[], name);
    let _ = rulebook.words.words(rulebook.patterns.keys(), None);
    for (of, entry) in &rulebook.job {
        let _ = job::steps(of, &entry.step, text, name);
    }
}
