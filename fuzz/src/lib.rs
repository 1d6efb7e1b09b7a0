//! What has to hold of every input, target by target: `cargo fuzz` looks for one of which it does not, and a test of the project tries
//! those in `corpus`.

mod cell;
mod columns;
mod conditions;
mod csv;
mod cutting;
mod decisions;
mod file;
mod header;
mod house_format;
mod json;
mod judge;
mod judges;
mod ldif;
mod mail;
mod pieces;
mod records;
mod requests;
mod sqlite;
mod text;
mod tokens;
mod vcard;
mod whole_workbook;
mod workbook;

pub use cell::cell;
pub use columns::columns;
pub use conditions::conditions;
pub use csv::csv;
pub use decisions::decisions;
pub use header::header;
pub use house_format::house_format;
pub use json::json;
pub use judge::judge;
pub use ldif::ldif;
pub use mail::mail;
pub use pieces::pieces;
pub use requests::requests;
pub use sqlite::sqlite;
pub use text::text;
pub use tokens::tokens;
pub use vcard::vcard;
pub use workbook::workbook;

/// What is tried with an input.
pub type Target = fn(&[u8]);

/// The targets, by the names of their folders in `corpus`. The one for rulebooks is beside them, since it needs what the program has for fuzzing.
pub const TARGETS: [(&str, Target); 18] = [
    ("cell", cell),
    ("columns", columns),
    ("conditions", conditions),
    ("csv", csv),
    ("decisions", decisions),
    ("header", header),
    ("house_format", house_format),
    ("json", json),
    ("judge", judge),
    ("ldif", ldif),
    ("mail", mail),
    ("pieces", pieces),
    ("requests", requests),
    ("sqlite", sqlite),
    ("text", text),
    ("tokens", tokens),
    ("vcard", vcard),
    ("workbook", workbook),
];
