//! What `redact` says.

use std::fmt::Write as _;
use std::path::Path;

use ypogram_core::shown;
use ypogram_io::Target;
use ypogram_jobs::redact::{Left, RedactBy, RedactOptions, RedactReport, Restored, SearchReport};

use crate::render::places::place;
use crate::render::style;
use crate::render::words::{counted, number};

/// What was replaced, for people.
pub(crate) fn summary(
    reports: &[RedactReport],
    options: &RedactOptions,
    targets: &[Target],
    map: Option<&Path>,
) -> String {
    let mut out = String::new();
    for (report, target) in reports.iter().zip(targets) {
        let values = match report.values {
            0 => String::new(),
            values => format!(" and {} of hidden fields", counted(values, "value", "values")),
        };
        let _ = writeln!(
            out,
            "{}{values} replaced in {}; the copy was written {}",
            style::title(&counted(report.addresses, "address", "addresses")),
            shown(report.source.as_bytes()),
            place(target)
        );
        let _ = writeln!(
            out,
            "  {} stand in their place",
            counted(report.different, "different text", "different texts")
        );
        if report.broken > 0 {
            let _ = writeln!(
                out,
                "  {}, such as ada@@host, and were replaced as well",
                counted(report.broken, "word was meant as an address", "words were meant as addresses")
            );
        }
        if report.passed_over > 0 {
            let _ = writeln!(
                out,
                "  {} with an @ that are no addresses stayed; look at them: ypogram extract {} --show-skipped",
                counted(report.passed_over, "place", "places"),
                shown(report.source.as_bytes())
            );
        }
        if matches!(options.by, RedactBy::Mask(_)) && report.merged > 0 {
            let _ = writeln!(
                out,
                "  {} for several different values each; more characters (--keep), the domain or tokens would tell them apart",
                counted(report.merged, "of these stands", "of these stand")
            );
        }
    }
    let _ = writeln!(out, "{}", remark(options));
    if let Some(map) = map {
        let _ = writeln!(out, "the way back is in {}: it is for you alone", map.display());
    }
    out
}

fn remark(options: &RedactOptions) -> String {
    let same = options.policy.same.word();
    match &options.by {
        RedactBy::Token(_) => format!(
            "the same mailbox (rule {same}) has the same token, and nobody without the key can tell whose"
        ),
        RedactBy::Mask(_) => {
            "masks show something of each value: whoever knows a person may recognise them".to_owned()
        }
        RedactBy::Hash => {
            "such hashes can be guessed, by hashing addresses until one is the same; tokens cannot".to_owned()
        }
    }
}

/// What was left in a copy, which is why there is none.
pub(crate) fn left(source: &Path, left: &[Left]) -> String {
    let mut out = format!(
        "ypogram: {}: {} left in the copy, so none was written\n",
        source.display(),
        counted(left.len() as u64, "personal value was", "personal values were")
    );
    for one in left.iter().take(10) {
        let _ = writeln!(out, "  line {}: {}", number(one.line), one.what);
    }
    out.push_str("  → hide the fields that have the same values as well, with --hide\n");
    out
}

/// What was brought back.
pub(crate) fn restored(report: &Restored) -> String {
    let mut out = format!("{} brought back\n", counted(report.places, "original", "originals"));
    if report.missing > 0 {
        let _ = writeln!(
            out,
            "  {} of the map stand nowhere in the copy",
            counted(report.missing, "text", "texts")
        );
    }
    if report.unsure > 0 {
        let _ = writeln!(
            out,
            "  {} could be written in several ways, and rows were added or taken out: the most frequent way was taken",
            number(report.unsure)
        );
    }
    out
}

/// Sightings that are listed for people.
const LISTED: usize = 20;

/// Which personal values are in files.
pub(crate) fn found(report: &SearchReport) -> String {
    let mut out = format!(
        "{} · {} — {}\n",
        style::title(&counted(report.addresses, "address", "addresses")),
        counted(report.telephones, "telephone number", "telephone numbers"),
        counted(report.files.len() as u64, "file", "files")
    );
    if report.tokens > 0 {
        let _ = writeln!(
            out,
            "{} of redacted copies, which tell nothing",
            counted(report.tokens, "token", "tokens")
        );
    }
    for sighting in report.first.iter().take(LISTED) {
        let field = if sighting.field.is_empty() { String::new() } else { format!(", {}", sighting.field) };
        let _ = writeln!(
            out,
            "  {}, line {}{}: {}",
            shown(sighting.source.as_bytes()),
            number(sighting.line),
            shown(field.as_bytes()),
            shown(sighting.text.as_bytes())
        );
    }
    let listed = report.first.len().min(LISTED) as u64;
    let all = report.addresses + report.telephones;
    if all > listed {
        let _ = writeln!(out, "  and {} more: --json", number(all - listed));
    }
    for trouble in &report.troubles {
        let _ = writeln!(out, "  {}", shown(trouble.as_bytes()));
    }
    out
}
