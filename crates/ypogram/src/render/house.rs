//! The house's own address format, for people.

use std::fmt::Write as _;

use std::path::PathBuf;

use ypogram_core::house_format::{HouseFormat, HousePart, HouseVerdict};
use ypogram_core::{Pattern, shown};
use ypogram_jobs::Tally;
use ypogram_jobs::learn_house::LearnReport;

use crate::render::figures::Figure;
use crate::render::layout::Cell;
use crate::render::style;
use crate::render::summary::Block;
use crate::render::words::{counted, for_shell, number};

/// What came of trying an address.
pub(crate) fn tried(address: &str, verdict: Option<&HouseVerdict>) -> String {
    let mut out = String::new();
    let text = shown(address.as_bytes());
    let Some(verdict) = verdict else {
        let _ = writeln!(out, "{} {text}\n       no format is for its domain", style::bad("misses"));
        return out;
    };
    if verdict.fits() {
        let short = if verdict.short_name { "  (a short form of the given name)" } else { "" };
        let _ = writeln!(out, "{} {text}{short}", style::good("fits"));
        return out;
    }
    let _ = writeln!(out, "{} {text}  {}", style::bad("misses"), verdict.words());
    for fault in &verdict.faults {
        let before = shown(&address.as_bytes()[..fault.span.start]).to_string().chars().count();
        let marks = shown(&address.as_bytes()[fault.span.clone()]).to_string().chars().count().max(1);
        let _ = writeln!(out, "       {}{}  {}", " ".repeat(before), "^".repeat(marks), fault.message);
    }
    if let Some(proposal) = &verdict.proposal {
        let _ = writeln!(out, "       {proposal}  as the house would build it");
    }
    out
}

/// What a format accepts, piece by piece, with examples.
pub(crate) fn described(format: &HouseFormat) -> String {
    let description = format.describe();
    let mut out = format!("{}\n\nAn address is built of\n", shown(format.written().as_bytes()));
    for (nth, way) in description.ways.iter().enumerate() {
        let first = if nth == 0 { "  " } else { "  or " };
        let _ = writeln!(out, "{first}{}", way.join(" · "));
    }
    let widest = |names: &[&String]| names.iter().map(|name| name.chars().count()).max().unwrap_or_default();
    let _ = writeln!(out, "\nThese fit");
    let width = widest(&description.fitting.iter().map(|(name, _)| name).collect::<Vec<_>>());
    for (name, address) in &description.fitting {
        let _ = writeln!(out, "  {name:width$}  {}", style::good(address));
    }
    let _ = writeln!(out, "\nThese nearly fit");
    let width = widest(&description.failing.iter().map(|(name, ..)| name).collect::<Vec<_>>());
    for (name, address, why) in &description.failing {
        let _ = writeln!(out, "  {name:width$}  {}  {why}", style::bad(address));
    }
    out
}

/// What a pattern accepts, piece by piece, with examples.
pub(crate) fn described_pattern(pattern: &Pattern) -> String {
    let description = pattern.describe();
    let mut out = format!("{}  {}\n\nA value is\n", pattern.name, shown(pattern.written.as_bytes()));
    for piece in &description.pieces {
        let _ = writeln!(out, "  {piece}");
    }
    for (title, values) in [("These fit", &description.fitting), ("These nearly fit", &description.failing)] {
        if !values.is_empty() {
            let _ = writeln!(out, "\n{title}");
        }
        for value in values {
            let _ = writeln!(out, "  {}", shown(value.as_bytes()));
        }
    }
    out
}

/// Addresses of a domain that are listed where not all are asked for.
const OTHERS: usize = 5;

/// How each domain builds its addresses, and which do not follow.
pub(crate) fn learned(report: &LearnReport, sources: &[PathBuf], full: bool) -> String {
    let domains = counted(report.domains.len() as u64, "domain", "domains");
    let mut out = format!(
        "{domains} — {} with a usable address and both names, of {}\n",
        counted(report.with_names, "record", "records"),
        number(report.records)
    );
    for domain in &report.domains {
        let share = domain.following as f64 / domain.addresses as f64 * 100.0;
        let _ = writeln!(out, "\n{}", style::title(&shown(domain.domain.as_bytes())));
        if domain.format.is_empty() {
            let _ = writeln!(out, "  no two of its {} addresses are built alike", number(domain.addresses));
            continue;
        }
        let _ = writeln!(
            out,
            "  {}  {} of {} ({share:.0} %)",
            style::good(&domain.format),
            number(domain.following),
            number(domain.addresses)
        );
        let shown_others = if full { domain.others.len() } else { OTHERS };
        for (line, address, faults) in domain.others.iter().take(shown_others) {
            let _ = writeln!(out, "    line {line}  {}  {faults}", shown(address.as_bytes()));
        }
        if domain.others.len() > shown_others {
            let _ =
                writeln!(out, "    and {} more: --full", number((domain.others.len() - shown_others) as u64));
        }
    }
    if let Some(first) = report.domains.iter().find(|domain| !domain.format.is_empty()) {
        let sources: Vec<String> =
            sources.iter().map(|source| for_shell(&source.display().to_string())).collect();
        let _ = writeln!(
            out,
            "\nNext\n  ypogram check {} --house {} -o checked.csv",
            sources.join(" "),
            for_shell(&first.format)
        );
    }
    out
}

/// How many addresses fit the house's format, and what is at fault in the others.
pub(crate) fn parts(tally: &Tally) -> Block {
    let held = tally.house.iter().sum::<u64>();
    let figure = |(word, count): (&'static str, u64), remark| Figure::new(word, count, None, remark);
    let fits = figure(("fits", tally.house[0]), "");
    let faults = HousePart::ALL.iter().zip(&tally.house[1..]).filter(|(_, count)| **count > 0);
    let faults = faults.map(|(part, count)| figure((part.word(), *count), remark(*part)));
    let figures: Vec<Figure> = std::iter::once(fits).chain(faults).filter(|_| held > 0).collect();
    Block::of("The house’s format", "addresses; one can have several faults", &figures)
}

fn remark(part: HousePart) -> &'static str {
    match part {
        HousePart::Given => "the given name, or how much of it",
        HousePart::Family => "the family name, or how much of it",
        HousePart::Order => "the names the other way round",
        HousePart::Separator => "another sign between the parts, or none",
        HousePart::Number => "digits, or how many",
        HousePart::Literal => "a fixed text",
        HousePart::SubDomain => "missing, too much or another",
        HousePart::Domain => "mistyped or another",
        HousePart::Surplus => "something that the format has no place for",
    }
}

/// Clashes that are shown.
const CLASHES: usize = 8;

/// Addresses that the house would give to several records.
pub(crate) fn clashes(tally: &Tally) -> Block {
    let rows = tally.clashes.iter().take(CLASHES).map(|clash| {
        vec![
            Cell::flexible(shown(clash.address.as_bytes())),
            Cell::text(format!("records {} and {}", number(clash.earlier), number(clash.later))),
        ]
    });
    let all = counted(tally.clashes.len() as u64, "proposal", "proposals");
    Block::of_rows(
        "Two would get one address",
        &format!("{all} by the house’s format; for you to decide"),
        rows.collect(),
    )
}
