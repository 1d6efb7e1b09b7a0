//! Lists that are over a year old: domains change hands, and services come and go.

use std::io::{IsTerminal as _, Write as _};
use std::path::Path;
use std::time::SystemTime;

use jiff::civil::Date;
use ypogram_core::REFERENCE_DATE;

/// Days after which a list is called old.
const OLD: i32 = 365;

/// What there is to say of the built-in lists, where they are old.
pub(crate) fn built_in() -> Option<String> {
    let made: Date = REFERENCE_DATE.parse().expect("a date");
    is_old(made, today()).then(|| {
        format!(
            "the built-in lists are of {made}, over a year old: newer versions of Ypogram have newer ones"
        )
    })
}

/// The same of a list in a file of the user's own.
fn own(name: &str, file: &Path) -> Option<String> {
    let changed = file.metadata().and_then(|metadata| metadata.modified()).ok()?;
    let changed = date_of(changed)?;
    is_old(changed, today())
        .then(|| format!("the list {name} was last changed on {changed}, over a year ago"))
}

/// Reports on a terminal which lists in force are old.
pub(crate) fn report<'l>(lists: impl Iterator<Item = (&'l str, &'l Path)>) {
    if !std::io::stderr().is_terminal() {
        return;
    }
    let own = lists.filter_map(|(name, file)| own(name, file));
    for line in built_in().into_iter().chain(own) {
        let _ = writeln!(anstream::stderr(), "ypogram: {}", ypogram_core::shown(line.as_bytes()));
    }
}

fn is_old(made: Date, today: Date) -> bool {
    today.since(made).is_ok_and(|span| span.get_days() > OLD)
}

/// Whether the day began already somewhere else is of no matter in a year.
fn today() -> Date {
    date_of(SystemTime::now()).unwrap_or_default()
}

fn date_of(time: SystemTime) -> Option<Date> {
    let time = jiff::Timestamp::try_from(time).ok()?;
    Some(time.to_zoned_datetime(jiff::tz::TimeZone::UTC).date())
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn lists_are_old_after_a_year() {
        let made: Date = "2026-12-01".parse().unwrap();
        for (today, old) in
            [("2026-12-01", false), ("2027-12-01", false), ("2027-12-02", true), ("2026-01-01", false)]
        {
            assert_eq!(is_old(made, today.parse().unwrap()), old, "{today}");
        }
        assert_eq!(date_of(SystemTime::UNIX_EPOCH), Some("1970-01-01".parse().unwrap()));
        let folder = tempfile::TempDir::new().unwrap();
        let file = folder.path().join("partners.csv");
        std::fs::write(&file, "domain\n").unwrap();
        assert_eq!(own("partners", &file), None);
        let long_ago = SystemTime::now() - std::time::Duration::from_secs(86_400 * 400);
        std::fs::File::options().write(true).open(&file).unwrap().set_modified(long_ago).unwrap();
        assert!(own("partners", &file).unwrap().starts_with("the list partners was last changed on "));
    }
}
