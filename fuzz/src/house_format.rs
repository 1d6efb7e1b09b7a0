//! The notation of house formats: the first line is a format, the second a given name, the third a family name, the fourth an address.

use ypogram_core::house_format::{Fold, HouseFormat};

/// Tries that with `bytes`.
///
/// # Panics
/// Where that does not hold.
pub fn house_format(bytes: &[u8]) {
    let Ok(text) = std::str::from_utf8(bytes) else { return };
    let mut lines = text.splitn(4, '\n');
    let mut next = || lines.next().unwrap_or_default();
    let Ok(format) = HouseFormat::new(next(), Fold::German) else { return };
    let (given, family, address) = (next(), next(), next());
    format.describe();
    let person = format.person(given, family, &[]);
    if let Some(proposed) = format.propose(&person) {
        assert!(format.judge(&proposed, &person).fits(), "{proposed}");
    }
    let verdict = format.judge(address, &person);
    if let Some((local, domain)) = address.rsplit_once('@') {
        let certainly =
            format.certainly_fits(local.as_bytes(), domain.as_bytes(), given.as_bytes(), family.as_bytes());
        assert!(!certainly || verdict.fits(), "{verdict:?}");
    }
}
