//! What pages are put together from.

use serde::{Deserialize, Serialize};

use crate::render::page::drawing::{Drawing, Shape};
use crate::render::words::{number, share};

/// A page.
#[derive(Clone, Debug, Default, Serialize, Deserialize)]
pub(crate) struct Page {
    pub(crate) title: String,
    /// What was asked, in a sentence.
    pub(crate) answer: String,
    /// What was read, and how.
    pub(crate) subtitle: String,
    pub(crate) sections: Vec<Section>,
    /// Where the figures come from.
    pub(crate) sources: Vec<String>,
}

/// Something below a heading of its own.
#[derive(Clone, Debug, Default, Serialize, Deserialize)]
pub(crate) struct Section {
    pub(crate) title: String,
    /// What its figures are of.
    pub(crate) remark: String,
    /// Sentences above the parts.
    pub(crate) text: Vec<String>,
    pub(crate) parts: Vec<Part>,
    /// Sentences below them.
    pub(crate) notes: Vec<String>,
    /// How much of the width it takes where there is room.
    pub(crate) width: Width,
    /// It is opened by whoever wants to see it.
    pub(crate) is_closed: bool,
}

/// How much of the width a section takes; what is left others take that stand beside it.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
pub(crate) enum Width {
    #[default]
    Whole,
    TwoThirds,
    Half,
    Third,
}

/// What a section shows.
#[derive(Clone, Debug, Serialize, Deserialize)]
pub(crate) enum Part {
    /// Figures that are seen first.
    Tiles(Vec<Tile>),
    /// How a whole divides, in parts that fill the width.
    Division(Vec<Figure>),
    /// Figures below one another, each with a bar.
    Bars(Vec<Figure>),
    Table(Table),
    /// Pictures, below what their shapes stand for.
    Drawings(Vec<(Shape, String)>, Vec<Drawing>),
}

#[derive(Clone, Debug, Serialize, Deserialize)]
pub(crate) struct Tile {
    pub(crate) count: Count,
    pub(crate) label: String,
    pub(crate) remark: String,
}

/// A number under the name that it has everywhere.
#[derive(Clone, Debug, Default, Serialize, Deserialize)]
pub(crate) struct Count {
    pub(crate) count: u64,
    /// As people read it.
    pub(crate) shown: String,
    /// The name of the figure; empty where it has none.
    pub(crate) name: String,
}

/// A figure with a share.
#[derive(Clone, Debug, Serialize, Deserialize)]
pub(crate) struct Figure {
    pub(crate) label: String,
    pub(crate) count: Count,
    /// Of the whole, as people read it.
    pub(crate) share: String,
    /// Of the width, in per cent.
    pub(crate) width: String,
    /// Its colour, by what it stands for; empty for a plain one.
    pub(crate) class: String,
    pub(crate) records: Option<Records>,
}

#[derive(Clone, Debug, Default, Serialize, Deserialize)]
pub(crate) struct Table {
    pub(crate) columns: Vec<Column>,
    pub(crate) rows: Vec<Row>,
}

#[derive(Clone, Debug, Serialize, Deserialize)]
pub(crate) struct Column {
    pub(crate) name: String,
    pub(crate) sort: Sort,
}

/// How the cells of a column look.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub(crate) enum Sort {
    Text,
    /// A name, which is not broken.
    Name,
    Number,
    Code,
}

#[derive(Clone, Debug, Default, Serialize, Deserialize)]
pub(crate) struct Row {
    pub(crate) cells: Vec<Cell>,
    pub(crate) records: Option<Records>,
}

#[derive(Clone, Debug, Serialize, Deserialize)]
pub(crate) enum Cell {
    Text(String),
    Count(Count),
}

/// The first records behind a figure.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
pub(crate) struct Records {
    pub(crate) columns: Vec<String>,
    pub(crate) rows: Vec<Vec<String>>,
    /// How many there are, `of` in all.
    pub(crate) of: String,
}

impl Count {
    /// A figure under its name.
    pub(crate) fn new(name: impl Into<String>, count: u64) -> Self {
        Count { count, shown: number(count), name: name.into() }
    }

    /// A number that is told nowhere else.
    pub(crate) fn unnamed(count: u64) -> Self {
        Count::new("", count)
    }
}

impl Figure {
    /// A figure that is a part of `whole`, with a bar as long as its share of `longest`.
    pub(crate) fn new(label: impl Into<String>, count: Count, (whole, longest): (u64, u64)) -> Self {
        let width = count.count as f64 * 100.0 / longest.max(1) as f64;
        Figure {
            label: label.into(),
            share: share(count.count, whole),
            width: format!("{width:.2}"),
            count,
            class: String::new(),
            records: None,
        }
    }

    #[must_use]
    pub(crate) fn in_colour(mut self, class: &str) -> Self {
        class.clone_into(&mut self.class);
        self
    }

    #[must_use]
    pub(crate) fn opening(mut self, records: Option<Records>) -> Self {
        self.records = records;
        self
    }
}

impl Section {
    pub(crate) fn new(title: impl Into<String>, remark: impl Into<String>, parts: Vec<Part>) -> Self {
        Section { title: title.into(), remark: remark.into(), parts, ..Section::default() }
    }

    #[must_use]
    pub(crate) fn saying(mut self, sentence: impl Into<String>) -> Self {
        self.text.push(sentence.into());
        self
    }

    #[must_use]
    pub(crate) fn noting(mut self, sentence: impl Into<String>) -> Self {
        self.notes.push(sentence.into());
        self
    }

    #[must_use]
    pub(crate) fn half(mut self) -> Self {
        self.width = Width::Half;
        self
    }

    #[must_use]
    pub(crate) fn closed(mut self) -> Self {
        self.is_closed = true;
        self
    }
}

impl Table {
    /// A table with these columns, and without rows.
    pub(crate) fn of(columns: &[(&str, Sort)]) -> Self {
        let column = |(name, sort): &(&str, Sort)| Column { name: (*name).to_owned(), sort: *sort };
        Table { columns: columns.iter().map(column).collect(), rows: Vec::new() }
    }

    /// Whether a column has a name.
    pub(crate) fn has_names(&self) -> bool {
        self.columns.iter().any(|column| !column.name.is_empty())
    }

    pub(crate) fn add(&mut self, cells: Vec<Cell>, records: Option<Records>) {
        self.rows.push(Row { cells, records });
    }
}

impl From<&str> for Cell {
    fn from(text: &str) -> Self {
        Cell::Text(text.to_owned())
    }
}

impl From<String> for Cell {
    fn from(text: String) -> Self {
        Cell::Text(text)
    }
}

impl From<Count> for Cell {
    fn from(count: Count) -> Self {
        Cell::Count(count)
    }
}

/// Bars of these figures, the longest as long as there is room; nothing where there are none.
pub(crate) fn bars(figures: Vec<(String, Count, Option<Records>)>, whole: u64) -> Vec<Part> {
    let longest = figures.iter().map(|(_, count, _)| count.count).max().unwrap_or_default();
    if longest == 0 {
        return Vec::new();
    }
    let bar = |(label, count, records): (String, Count, Option<Records>)| {
        Figure::new(label, count, (whole, longest)).opening(records)
    };
    vec![Part::Bars(figures.into_iter().map(bar).collect())]
}
