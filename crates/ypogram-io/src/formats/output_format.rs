//! The formats that rows are written in.

use std::path::Path;
use std::sync::Arc;

use crate::formats::contacts::{LdifRows, VcardRows};
use crate::formats::csv::{CsvRows, TextLayout};
use crate::formats::json::JsonRows;
use crate::output::Target;
use crate::records::error::{Error, Result};
use crate::records::format::{FORMATS, Format, extension_of};
use crate::records::place::SourcePlace;
use crate::records::source::{Schema, SourceKind};
use crate::rows::{EncodeRows, OwnFields, Projection};

/// What rows are written in, and how it looks.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum OutputFormat {
    /// Separated values.
    Separated(TextLayout),
    /// Another format.
    Other(Format),
}

impl OutputFormat {
    /// That of rows like those of a source; in `format`, where that is asked for. Rows of a source whose format is not written are
    /// separated by commas.
    pub fn like(schema: &Schema, format: Option<Format>) -> Self {
        let own = match schema.kind {
            SourceKind::Lines | SourceKind::Separated { .. } => Format::Csv,
            SourceKind::Json { in_array: false } => Format::JsonLines,
            SourceKind::Json { in_array: true } => Format::Json,
            SourceKind::Typed(format) => format,
        };
        let layout = schema.layout().unwrap_or_default();
        match format {
            Some(format) => OutputFormat::of(format, layout),
            None if own.can_be_written() && own != Format::Csv => OutputFormat::Other(own),
            None => OutputFormat::Separated(layout),
        }
    }

    /// That of a format; separated values look like `layout`, but for what the format says.
    pub fn of(format: Format, layout: TextLayout) -> Self {
        match format {
            Format::Tsv => OutputFormat::Separated(TextLayout { delimiter: b'\t', ..layout }),
            Format::Csv | Format::Text if layout.delimiter == b'\t' => {
                OutputFormat::Separated(TextLayout { delimiter: b',', ..layout })
            }
            Format::Csv | Format::Text => OutputFormat::Separated(layout),
            other => OutputFormat::Other(other),
        }
    }

    /// The same, unless the name of an output file says another; `is_given` where the format was asked for. What is no text goes to
    /// standard output only where it was asked for.
    ///
    /// # Errors
    /// As for [`for_path`](Self::for_path).
    pub fn for_target(self, target: &Target, is_given: bool) -> Result<Self> {
        match (target, self) {
            (Target::File { path, .. }, _) => self.for_path(path, is_given),
            (_, OutputFormat::Other(format)) if !is_given && !format.entry().uses.is_text => {
                Ok(OutputFormat::default())
            }
            _ => Ok(self),
        }
    }

    /// The same, unless the name of the file says another; `is_given` where the format was asked for.
    ///
    /// # Errors
    /// Where the name says a format that is not written, or another than was asked for.
    pub fn for_path(self, path: &Path, is_given: bool) -> Result<Self> {
        let SourcePlace { file, part } = SourcePlace::of(path);
        let named = Format::named_by(&file);
        if let Some(server) = named.filter(|named| named.is_on_server()) {
            return match server.entry().feature {
                Some((_, false)) => Err(not_written(path, server)),
                _ => Ok(OutputFormat::Other(server)),
            };
        }
        if part.is_some() && named != Some(Format::Sqlite) {
            return Err(Error::output(
                format!("{}: only a database has tables to choose from", path.display()),
                "leave out what stands behind ‘#’",
            ));
        }
        let layout = match self {
            OutputFormat::Separated(layout) => layout,
            OutputFormat::Other(_) => TextLayout::default(),
        };
        match named {
            Some(named) if !named.can_be_written() && named != Format::Text => Err(not_written(path, named)),
            Some(Format::Text) | None if !NOT_WRITTEN.contains(&&*extension_of(&file)) => Ok(match self {
                // A name that says nothing is that of text.
                OutputFormat::Other(format) if !is_given && !format.entry().uses.is_text => {
                    OutputFormat::Separated(layout)
                }
                _ => self,
            }),
            None | Some(Format::Text) => Err(Error::output(
                format!("{}: ‘.{}’ is not written", path.display(), extension_of(&file)),
                written_formats(),
            )),
            // What is separated may be separated by anything.
            Some(Format::Csv) if matches!(self, OutputFormat::Separated(_)) && layout.delimiter != b'\t' => {
                Ok(self)
            }
            Some(named) if is_given && OutputFormat::of(named, layout) != self => Err(Error::output(
                format!(
                    "{}: the name says {}, and --to another format",
                    path.display(),
                    named.entry().called
                ),
                "give the file the extension of its format, or leave --to out",
            )),
            Some(named) => Ok(OutputFormat::of(named, layout)),
        }
    }

    /// Whether records of such a source stand there as rows of the format do.
    pub fn is_that_of(self, schema: &Schema) -> bool {
        match self {
            OutputFormat::Separated(layout) => {
                schema.layout().is_some_and(|own| own.delimiter == layout.delimiter)
            }
            OutputFormat::Other(format) => {
                matches!(format, Format::JsonLines | Format::Json)
                    && matches!(schema.kind, SourceKind::Json { .. })
            }
        }
    }

    /// The format.
    pub fn format(self) -> Format {
        match self {
            OutputFormat::Separated(TextLayout { delimiter: b'\t', .. }) => Format::Tsv,
            OutputFormat::Separated(_) => Format::Csv,
            OutputFormat::Other(format) => format,
        }
    }

    /// What the name of a file in it ends with.
    pub fn extension(self) -> &'static str {
        self.format().output_extension()
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
            OutputFormat::Other(Format::Vcard) => Box::new(VcardRows::new(own, projection)),
            OutputFormat::Other(Format::Ldif) => Box::new(LdifRows::new(own, projection)),
            #[cfg(feature = "spreadsheet")]
            OutputFormat::Other(Format::Xlsx) => crate::formats::spreadsheet::encoder(own, projection),
            #[cfg(feature = "parquet")]
            OutputFormat::Other(format @ (Format::Parquet | Format::Arrow | Format::ArrowStream)) => {
                crate::formats::columnar::encoder(format, own, projection)
            }
            #[cfg(feature = "sqlite")]
            OutputFormat::Other(Format::Sqlite) => crate::formats::sqlite::encoder(own, projection),
            #[cfg(feature = "mysql")]
            OutputFormat::Other(Format::MariaDb) => crate::formats::server::mariadb::encoder(own, projection),
            #[cfg(feature = "postgres")]
            OutputFormat::Other(Format::Postgres) => {
                crate::formats::server::postgres::encoder(own, projection)
            }
            OutputFormat::Other(format) => Box::new(JsonRows::new(own, projection, format == Format::Json)),
        }
    }
}

/// Extensions of formats that people may expect, and that are not written.
const NOT_WRITTEN: &[&str] = &[
    "pdf", "doc", "docx", "odt", "rtf", "xlsb", "zip", "7z", "xml", "png", "svg", "yaml", "yml", "toml",
    "sql", "md",
];

fn not_written(path: &Path, named: Format) -> Error {
    let entry = named.entry();
    let (why, hint) = match entry.feature {
        Some((feature, false)) => {
            (" by this build of the program".to_owned(), format!("build it with --features {feature}"))
        }
        _ => (String::new(), written_formats()),
    };
    Error::output(format!("{}: {} is not written{why}", path.display(), entry.called), hint)
}

/// The extensions of formats that are written, for a hint.
fn written_formats() -> String {
    let extensions = FORMATS.iter().filter(|entry| entry.format.can_be_written());
    let extensions: Vec<String> = extensions.map(|entry| format!(".{}", entry.extensions[0])).collect();
    format!("give a name that ends with one of {}", extensions.join(", "))
}

impl Default for OutputFormat {
    /// Values separated by commas.
    fn default() -> Self {
        OutputFormat::Separated(TextLayout::default())
    }
}
