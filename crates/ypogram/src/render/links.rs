//! The summary of `links`: firms, households, what is shared most, and what is odd.

use ypogram_core::shown;
use ypogram_jobs::links::{
    Behind, BehindRow, GraphTarget, KindReport, LinksOptions, LinksReport, NodeKind, ShareRow,
};

use crate::call::Call;
use crate::render::head::{Head, JudgedBy};
use crate::render::layout::Cell;
use crate::render::notes::Notes;
use crate::render::places::place;
use crate::render::summary::{Block, Summary};
use crate::render::words::{counted, number};

/// Who shares what, for people.
pub(crate) fn summary(
    report: &LinksReport,
    options: &LinksOptions,
    call: &Call,
    by: JudgedBy<'_>,
) -> Summary {
    let mut summary = Summary::new(match (&options.behind, &report.behind) {
        (Some(text), None) => format!("Nobody has ‘{}’", shown(text.as_bytes())),
        _ => answer(report),
    });
    summary.head(Head::of_columns(&report.sources, &report.columns, &report.how, by).lines());
    match &report.behind {
        Some(behind) => {
            let rows = |rows: &[BehindRow]| rows.iter().map(behind_row).collect();
            summary.block(Block::of_rows("Addresses", &what(behind), rows(&behind.first)));
            summary.block(Block::of_rows("Beside them", "over what they share", rows(&behind.first_beside)));
        }
        None if options.behind.is_none() => blocks(report, &mut summary),
        None => {}
    }
    notes(report, options, &mut summary);
    if options.behind.is_none() {
        steps(report, options, call, &mut summary);
    }
    summary
}

/// The answer, which the page begins with too.
pub(crate) fn answer(report: &LinksReport) -> String {
    if let Some(behind) = &report.behind {
        return answer_behind(behind);
    }
    let groups = counted(report.groups, "group of addresses shares", "groups of addresses share");
    let of = counted(report.addresses, "address", "addresses");
    format!("{groups} something — {} of {of}", number(report.in_groups))
}

fn answer_behind(behind: &Behind) -> String {
    let beside = match behind.beside {
        0 => String::new(),
        beside => format!(", {} beside them", number(beside)),
    };
    format!(
        "{} behind ‘{}’{beside}",
        counted(behind.addresses, "address", "addresses"),
        shown(behind.value.as_bytes())
    )
}

fn what(behind: &Behind) -> String {
    match behind.kind {
        NodeKind::Address => "itself".to_owned(),
        _ => format!("of this {}", behind.kind.word()),
    }
}

fn behind_row(row: &BehindRow) -> Vec<Cell> {
    let share = |share: &ShareRow| {
        format!("{} {} ({})", share.kind.word(), shown(share.value.as_bytes()), number(share.addresses))
    };
    vec![
        Cell::flexible(shown(row.address.as_bytes())),
        Cell::right(counted(row.records, "record", "records")),
        Cell::flexible(row.shares.iter().map(share).collect::<Vec<_>>().join(", ")),
    ]
}

fn blocks(report: &LinksReport, summary: &mut Summary) {
    let groups = [
        ("firms", report.firms, report.firm_addresses, "domains of several addresses, but for providers"),
        (
            "households",
            report.households,
            report.household_addresses,
            "share a field, and are not all at one firm",
        ),
    ];
    let rows = groups.iter().filter(|(_, count, ..)| *count > 0).map(|(name, count, addresses, remark)| {
        vec![
            Cell::text(*name),
            Cell::right(number(*count)),
            Cell::text(counted(*addresses, "address", "addresses")),
            Cell::dim(*remark),
        ]
    });
    summary.block(Block::of_rows("Who belongs together", "", rows.collect()));
    let sizes = report.sizes.iter().map(|row| {
        let size = match row.to {
            Some(to) if to == row.from => format!("{to} addresses"),
            Some(to) => format!("{}–{} addresses", row.from, number(to)),
            None => format!("{} and more", number(row.from)),
        };
        vec![
            Cell::text(size),
            Cell::right(number(row.groups)),
            Cell::text(counted(row.addresses, "address", "addresses")),
        ]
    });
    summary.block(Block::of_rows("Groups by size", "directly or over others", sizes.collect()).rank(3));
    let odd = report.odd.iter().map(|row| {
        let of = match row.of {
            NodeKind::Domain => "domains".to_owned(),
            NodeKind::Address => "addresses".to_owned(),
            ref other => format!("values of {}", other.word()),
        };
        vec![
            Cell::text(row.kind.word()),
            Cell::flexible(shown(row.value.as_bytes())),
            Cell::right(number(row.count)),
            Cell::text(of),
        ]
    });
    summary.block(Block::of_rows("Odd", "how many share it", odd.collect()).rank(1));
    for kind in &report.kinds {
        summary.block(largest(kind));
    }
}

fn largest(kind: &KindReport) -> Block {
    let title = match &kind.kind {
        NodeKind::LocalPart => "Local parts at several domains".to_owned(),
        NodeKind::Domain => "Domains of several addresses".to_owned(),
        other => format!("Shared values of {}", other.word()),
    };
    let rows = kind.largest.iter().map(|row| {
        let first: Vec<&str> = match kind.kind {
            NodeKind::LocalPart => row.first.iter().filter_map(|one| Some(one.rsplit_once('@')?.1)).collect(),
            NodeKind::Domain => vec![row.class],
            _ => row.first.iter().map(String::as_str).collect(),
        };
        let more = if row.addresses > row.first.len() as u64 && kind.kind != NodeKind::Domain {
            ", …"
        } else {
            ""
        };
        vec![
            Cell::flexible(shown(row.value.as_bytes())),
            Cell::right(match kind.kind {
                NodeKind::LocalPart => counted(row.addresses, "domain", "domains"),
                _ => counted(row.addresses, "address", "addresses"),
            }),
            Cell::flexible(shown(format!("{}{more}", first.join(", ")).as_bytes())),
        ]
    });
    let remark = format!("the largest of {}", number(kind.shared));
    Block::of_rows(&title, &remark, rows.collect()).rank(2)
}

fn notes(report: &LinksReport, options: &LinksOptions, summary: &mut Summary) {
    let mut notes = Notes::default();
    notes.count(
        report.without,
        "record has no usable address and is left out",
        "records have no usable address and are left out",
    );
    notes.count(
        report.further,
        "further address of a record is taken with its first",
        "further addresses of records are taken with their first",
    );
    for kind in report.kinds.iter().filter(|kind| kind.too_common > 0) {
        let (one, many) = match &kind.kind {
            NodeKind::LocalPart => ("local part".to_owned(), "local parts".to_owned()),
            other => (format!("value of {}", other.word()), format!("values of {}", other.word())),
        };
        notes.count(
            kind.too_common,
            &format!("{one} is shared by more than 16 addresses and brings nobody together"),
            &format!("{many} are shared by more than 16 addresses and bring nobody together"),
        );
    }
    let to = match &options.graph {
        GraphTarget::Nowhere => None,
        GraphTarget::File(target, _) => Some(place(target)),
        GraphTarget::Tables { nodes, edges, .. } => {
            Some(format!("{} and {}", place(nodes), place(edges).trim_start_matches("to ")))
        }
    };
    if let Some(to) = to.filter(|_| options.behind.is_none() || report.behind.is_some()) {
        let (nodes, edges) = report.written;
        let (nodes, edges) = (counted(nodes, "node", "nodes"), counted(edges, "edge", "edges"));
        notes.say(format!("{nodes} and {edges} written {to}"));
    }
    summary.block(notes.block());
}

fn steps(report: &LinksReport, options: &LinksOptions, call: &Call, summary: &mut Summary) {
    if let Some(field) = report.telephone_field.as_ref().filter(|_| options.by.is_empty()) {
        summary.step(report.addresses, "households, by telephone:", &call.again("links").option("by", field));
    }
    let largest = report.kinds.iter().find(|kind| kind.kind != NodeKind::Domain && !kind.largest.is_empty());
    if let Some(first) = report
        .odd
        .first()
        .map(|row| (&row.value, row.count))
        .or_else(|| largest.and_then(|kind| kind.largest.first()).map(|row| (&row.value, row.addresses)))
    {
        summary.step(first.1, "who is behind the oddest:", &call.again("links").option("behind", first.0));
    }
    if options.drawn == 0 {
        summary.step(
            report.groups,
            "groups, as a picture:",
            &call.again("links").option("html", "links.html"),
        );
    }
    if matches!(options.graph, GraphTarget::Nowhere) {
        summary.step(
            report.addresses,
            "addresses, as a graph:",
            &call.again("links").option("output", "links.graphml"),
        );
    }
}
