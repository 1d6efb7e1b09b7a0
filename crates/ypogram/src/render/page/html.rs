//! A page as HTML.

use askama::Template;
use ypogram_core::shown;

use crate::render::page::parts::{Cell, Page, Part, Section, Sort, Width};

#[derive(Template)]
#[template(path = "page.html")]
struct PageTemplate<'p> {
    page: &'p Page,
    /// Records can be filtered and copied.
    has_records: bool,
    version: &'static str,
}

/// The page.
pub(crate) fn html(page: &Page) -> String {
    let mut page = page.clone();
    widen_lone_halves(&mut page.sections);
    let page = &page;
    let has_records = page.sections.iter().flat_map(|section| &section.parts).any(|part| match part {
        Part::Bars(figures) | Part::Division(figures) => {
            figures.iter().any(|figure| figure.records.is_some())
        }
        Part::Table(table) => table.rows.iter().any(|row| row.records.is_some()),
        Part::Tiles(_) | Part::Drawings(..) => false,
    });
    let template = PageTemplate { page, has_records, version: env!("CARGO_PKG_VERSION") };
    safe(&template.render().expect("the template has no condition that could fail"))
}

/// A page in which no name or cell can move in a terminal that shows it, or turn the direction of reading: such characters are written out.
fn safe(page: &str) -> String {
    let line =
        |line: &str| line.split('\t').map(|piece| shown(piece.as_bytes())).collect::<Vec<_>>().join("\t");
    page.split('\n').map(line).collect::<Vec<_>>().join("\n")
}

/// Where nothing stands beside half a section, it takes the whole width.
fn widen_lone_halves(sections: &mut [Section]) {
    for run in sections.chunk_by_mut(|one, other| one.width == Width::Half && other.width == Width::Half) {
        if let (1, Some(last @ Section { width: Width::Half, .. })) = (run.len() % 2, run.last_mut()) {
            last.width = Width::Whole;
        }
    }
}

impl Width {
    /// The class of a section.
    fn class(self) -> &'static str {
        match self {
            Width::Whole => "",
            Width::TwoThirds => "two-thirds",
            Width::Half => "half",
            Width::Third => "third",
        }
    }
}

impl Sort {
    /// The class of its cells.
    fn class(self) -> &'static str {
        match self {
            Sort::Text => "",
            Sort::Name => "name",
            Sort::Number => "number",
            Sort::Code => "code",
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::render::page::parts::{Count, Section, Table, bars};

    #[test]
    fn what_comes_from_data_is_never_markup() {
        let nasty = "<b>&\"it's\"</b>";
        let mut table = Table::of(&[("name", Sort::Code)]);
        table.add(vec![nasty.into()], None);
        let mut parts = bars(vec![(nasty.into(), Count::new(nasty, 3), None)], 3);
        parts.push(Part::Table(table));
        let sections = vec![Section::new(nasty, nasty, parts).saying(nasty).noting(nasty)];
        let page = Page { title: nasty.into(), answer: nasty.into(), sections, ..Page::default() };
        let html = html(&page);
        assert!(!html.contains("<b>&") && !html.contains("it's") && html.contains("&#60;b&#62;"), "{html}");
    }
}
