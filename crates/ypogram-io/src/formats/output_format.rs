//! The formats that rows are written in.

use std::path::Path;
use std::sync::Arc;

use crate::formats::csv::{CsvRows, TextLayout};
use crate::formats::jsonl::JsonRows;
use crate::records::format::Format;
use crate::records::source::{Schema, SourceKind};
use crate::rows::{EncodeRows, OwnFields, Projection};

/// What rows are written in, and how it looks.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum OutputFormat {
    /// Separated values.
    Separated(TextLayout),
    /// One JSON object a line.
    JsonLines,
}

impl OutputFormat {
    /// That of rows like those of a source; in `format`, where that is asked for. Rows of text are separated by commas.
    pub fn like(schema: &Schema, format: Option<Format>) -> Self {
        let layout = schema.layout().unwrap_or_default();
        match format {
            Some(format) => OutputFormat::of(format, layout),
            None if schema.kind == SourceKind::JsonLines => OutputFormat::JsonLines,
            None => OutputFormat::Separated(layout),
        }
    }

    /// That of a format; separated values look like `layout`, but for what the format says.
    fn of(format: Format, layout: TextLayout) -> Self {
        match format {
            Format::JsonLines => OutputFormat::JsonLines,
            Format::Tsv => OutputFormat::Separated(TextLayout { delimiter: b'\t', ..layout }),
            _ if layout.delimiter == b'\t' => {
                OutputFormat::Separated(TextLayout { delimiter: b',', ..layout })
            }
            _ => OutputFormat::Separated(layout),
        }
    }

    /// The same, unless the name of the file tells another.
    #[must_use]
    pub fn for_path(self, path: &Path) -> Self {
        let layout = match self {
            OutputFormat::Separated(layout) => layout,
            OutputFormat::JsonLines => TextLayout::default(),
        };
        match (Format::of_path(path), self) {
            (told @ (Format::JsonLines | Format::Tsv), _) => OutputFormat::of(told, layout),
            (Format::Csv, OutputFormat::JsonLines) => OutputFormat::Separated(layout),
            _ => self,
        }
    }

    /// Whether records of such a source stand there as rows of the format do.
    pub fn is_that_of(self, schema: &Schema) -> bool {
        match self {
            OutputFormat::Separated(layout) => {
                schema.layout().is_some_and(|own| own.delimiter == layout.delimiter)
            }
            OutputFormat::JsonLines => schema.kind == SourceKind::JsonLines,
        }
    }

    /// What the name of a file in it ends with.
    pub fn extension(self) -> &'static str {
        let format = match self {
            OutputFormat::Separated(TextLayout { delimiter: b'\t', .. }) => Format::Tsv,
            OutputFormat::Separated(_) => Format::Csv,
            OutputFormat::JsonLines => Format::JsonLines,
        };
        format.output_extension()
    }

    /// Writes rows of the format; `own` for each source, and the header of the first as it stands there, where that may be copied.
    pub fn encoder(
        self,
        own: &[OwnFields],
        projection: &Arc<Projection>,
        header: Option<Vec<u8>>,
    ) -> Box<dyn EncodeRows> {
        let (own, projection) = (own.to_vec(), Arc::clone(projection));
        match self {
            OutputFormat::Separated(layout) => Box::new(CsvRows::new(layout, own, projection, header)),
            OutputFormat::JsonLines => Box::new(JsonRows::new(own, projection)),
        }
    }
}

impl Default for OutputFormat {
    /// Values separated by commas.
    fn default() -> Self {
        OutputFormat::Separated(TextLayout::default())
    }
}
