//! What the fuzz targets share: files of fuzzed bytes, and what has to hold of whatever reads them.

mod file;
mod judges;
mod pieces;
mod records;
mod workbook;

pub use file::file_of;
pub use judges::{policy_by, with_judge_by};
pub use pieces::cut_into_pieces;
pub use records::read_records;
pub use workbook::workbook_of;
