//! The page of `links`: the groups as pictures, and beside them the tables of what is shared most.

use ypogram_core::masked;
use ypogram_jobs::links::{DrawnGroup, DrawnNode, KindReport, LinksOptions, LinksReport, NodeKind};

use crate::render::links::answer;
use crate::render::page::drawing::{Drawing, Shape, Unplaced};
use crate::render::page::parts::{Count, Page, Part, Section, Sort, Table, Tile, Width};
use crate::render::words::{counted, number};

/// Rows of a table.
const ROWS: usize = 12;

/// Letters of a label.
const LABEL: usize = 26;

/// The page; addresses, local parts and values of fields are masked unless `with_records`.
pub(crate) fn links(report: &LinksReport, options: &LinksOptions, with_records: bool) -> Page {
    let shown = |text: &str| match with_records {
        true => ypogram_core::shown(text.as_bytes()),
        false => masked(text),
    };
    let mut sections = vec![Section::new("", "", vec![Part::Tiles(tiles(report))])];
    sections.extend(pictures(report, &shown));
    sections.extend(tables(report, &shown));
    let names: Vec<&str> = report.sources.iter().map(|source| &*source.name).collect();
    let masked = "Addresses, local parts and values of fields are masked.";
    Page {
        title: match &report.behind {
            Some(behind) => format!("What hangs together with {}", shown(&behind.value)),
            None => format!("Who shares what in {}", names.join(", ")),
        },
        answer: answer(report),
        subtitle: subtitle(options),
        sections,
        sources: names
            .iter()
            .map(|name| (*name).to_owned())
            .chain((!with_records).then(|| masked.to_owned()))
            .collect(),
    }
}

fn subtitle(options: &LinksOptions) -> String {
    match &options.by[..] {
        [] => "By local part and domain.".to_owned(),
        fields => format!("By local part, domain and {}.", fields.join(", ")),
    }
}

fn tiles(report: &LinksReport) -> Vec<Tile> {
    let tile = |name: &str, count: u64, label: &str, remark: String| Tile {
        count: Count::new(name, count),
        label: label.to_owned(),
        remark,
    };
    let of = |addresses: u64| counted(addresses, "address", "addresses");
    vec![
        tile(
            "addresses",
            report.addresses,
            "addresses",
            format!("in {}", counted(report.records, "record", "records")),
        ),
        tile("groups", report.groups, "groups", of(report.in_groups)),
        tile("firms", report.firms, "firms", of(report.firm_addresses)),
        tile("households", report.households, "households", of(report.household_addresses)),
    ]
}

fn pictures(report: &LinksReport, shown: &dyn Fn(&str) -> String) -> Option<Section> {
    let drawn = report.drawn.as_ref().filter(|drawn| !drawn.groups.is_empty())?;
    let remark = match drawn.groups.len() as u64 {
        all if all == drawn.of => counted(all, "group", "groups"),
        some => format!("the {} largest of {}", number(some), counted(drawn.of, "group", "groups")),
    };
    let drawings = drawn.groups.iter().map(|group| drawing(group, shown)).collect();
    let mut section = Section::new("Groups", remark, vec![Part::Drawings(legend(report), drawings)]);
    section.width = Width::TwoThirds;
    Some(section.noting("Domains of mail providers, role accounts, and what more than 16 addresses share bring nobody together."))
}

/// What each shape stands for.
fn legend(report: &LinksReport) -> Vec<(Shape, String)> {
    let fields = report.kinds.iter().filter(|kind| matches!(kind.kind, NodeKind::Field(_)));
    let fields: Vec<&str> = fields.map(|kind| kind.kind.word()).collect();
    let mut legend = vec![
        (Shape::Circle, "address".to_owned()),
        (Shape::Square, "domain".to_owned()),
        (Shape::Diamond, "local part".to_owned()),
    ];
    if !fields.is_empty() {
        legend.push((Shape::Triangle, fields.join(", ")));
    }
    legend
}

fn drawing(group: &DrawnGroup, shown: &dyn Fn(&str) -> String) -> Drawing {
    let mut has_domain = vec![false; group.nodes.len()];
    for &(shared, address) in &group.edges {
        has_domain[address] |= group.nodes[shared].kind == NodeKind::Domain;
    }
    let nodes = group.nodes.iter().zip(&has_domain);
    let nodes = nodes.map(|(node, has_domain)| unplaced(node, *has_domain, shown)).collect();
    let shown_addresses = group.nodes.iter().filter(|node| node.kind == NodeKind::Address).count() as u64;
    let caption = counted(group.addresses, "address", "addresses");
    let caption = match group.is_cut {
        true => format!("{caption}, {} of them drawn", number(shown_addresses)),
        false => caption,
    };
    Drawing::new(caption, nodes, &group.edges)
}

/// A node with its label: of an address only what its domain does not say.
fn unplaced(node: &DrawnNode, has_domain: bool, shown: &dyn Fn(&str) -> String) -> Unplaced {
    let text = match node.kind {
        NodeKind::Domain => ypogram_core::shown(node.text.as_bytes()),
        _ => shown(&node.text),
    };
    let (shape, label, title) = match node.kind {
        NodeKind::Address => {
            let label = text.rsplit_once('@').filter(|_| has_domain).map_or(&*text, |(local, _)| local);
            (Shape::Circle, label.to_owned(), format!("{text}: {}", counted(node.count, "record", "records")))
        }
        _ => {
            let shape = match node.kind {
                NodeKind::Domain => Shape::Square,
                NodeKind::LocalPart => Shape::Diamond,
                _ => Shape::Triangle,
            };
            let kind = [node.kind.word(), node.class].join(" ");
            let of = counted(node.count, "address", "addresses");
            (shape, text.clone(), format!("{} {text}: {of}", kind.trim_end()))
        }
    };
    let label = match label.chars().count() > LABEL {
        true => label.chars().take(LABEL - 1).chain(['…']).collect(),
        false => label,
    };
    Unplaced { shape, label, title }
}

/// All tables, in one column beside the pictures.
fn tables(report: &LinksReport, shown: &dyn Fn(&str) -> String) -> Option<Section> {
    let kinds = report.kinds.iter().filter(|kind| !kind.largest.is_empty());
    let parts: Vec<Part> = kinds.map(|kind| Part::Table(table(kind, shown))).collect();
    let mut section = Section::new("What most share", "", parts);
    section.width = Width::Third;
    Some(section).filter(|section| !section.parts.is_empty())
}

fn table(kind: &KindReport, shown: &dyn Fn(&str) -> String) -> Table {
    let (name, of) = match &kind.kind {
        NodeKind::LocalPart => ("local part", "domains"),
        other => (other.word(), "addresses"),
    };
    let mut table = Table::of(&[(name, Sort::Name), (of, Sort::Number)]);
    for row in kind.largest.iter().take(ROWS) {
        let value = match kind.kind {
            NodeKind::Domain => ypogram_core::shown(row.value.as_bytes()),
            _ => shown(&row.value),
        };
        table.add(vec![value.into(), Count::unnamed(row.addresses).into()], None);
    }
    table
}
