//! Rows on their way out: a record's own cells and added ones, in the columns that are wanted, whatever the format.
//!
//! Here belongs what every output format has in common. How a row looks in one of them belongs in the folder of that
//! format, behind [`EncodeRows`]; where rows go belongs in `output`.

mod cell_texts;
mod enclose;
mod encode;
mod packed_rows;
mod projection;
mod template;
mod text_encoding;
mod values;
mod writer;

pub(crate) use cell_texts::CellTexts;
pub use enclose::{Enclose, Filled, IfThere, MakeEnclosure, Opening, OutputPlace, TakeBytes};
pub use encode::{EncodeRows, OutRow, OwnFields};
pub(crate) use packed_rows::PackedRowEncoder;
pub use projection::{Change, ColumnSource, KeyOf, Projection, RowSpec, SortBy};
pub use template::{Template, TemplateCell};
pub(crate) use text_encoding::Encoded;
pub use text_encoding::TextEncoding;
pub use values::{RowValues, Values};
pub use writer::{EncodedRows, RowWriter};
