//! Tables written by others: by the libraries of their formats, and not by the program that is tried.

use std::io::Write as _;
use std::path::Path;

use indexmap::IndexMap;

use crate::Draw;
use crate::campaign::records::table::Table;

/// The endings of files in which tables are given.
pub(super) const GIVEN: [&str; 9] =
    ["csv", "tsv", "csv.gz", "csv.zst", "utf16.csv", "jsonl", "json", "xlsx", "sqlite"];

/// Whether files with that ending hold text with rows of any length.
pub(super) fn is_text(ending: &str) -> bool {
    ending.contains("csv") || ending == "tsv"
}

/// Writes `table` to `path` in the format of `ending`.
///
/// # Panics
/// Where that fails.
pub(super) fn write(table: &Table, ending: &str, path: &Path, draw: &mut Draw) {
    match ending {
        "jsonl" => {
            let lines: Vec<String> = objects(table).map(|object| json(&object) + "\n").collect();
            std::fs::write(path, lines.concat()).expect("written");
        }
        "json" => std::fs::write(path, json(&objects(table).collect::<Vec<_>>())).expect("written"),
        "xlsx" => workbook(table, path),
        "sqlite" => database(table, path),
        _ => {
            let delimiter = if ending == "tsv" { b'\t' } else { *draw.of(b",;|") };
            let text = separated(table, delimiter, if draw.below(3) == 0 { "\r\n" } else { "\n" }, draw);
            match ending {
                "csv.gz" => {
                    let file = std::fs::File::create(path).expect("made");
                    let mut file = flate2::write::GzEncoder::new(file, flate2::Compression::fast());
                    file.write_all(&text).and_then(|()| file.finish().map(drop)).expect("written");
                }
                "csv.zst" => {
                    std::fs::write(path, zstd::encode_all(&text[..], 1).expect("encoded")).expect("written")
                }
                "utf16.csv" => {
                    let text = String::from_utf8(text).expect("UTF-8");
                    let units =
                        "\u{feff}".encode_utf16().chain(text.trim_start_matches('\u{feff}').encode_utf16());
                    let bytes: Vec<u8> = units.flat_map(u16::to_le_bytes).collect();
                    std::fs::write(path, bytes).expect("written");
                }
                _ => std::fs::write(path, text).expect("written"),
            }
        }
    }
}

fn separated(table: &Table, delimiter: u8, line_end: &str, draw: &mut Draw) -> Vec<u8> {
    let row = |cells: &[String]| {
        let mut writer =
            csv::WriterBuilder::new().delimiter(delimiter).flexible(true).from_writer(Vec::new());
        writer.write_record(cells).expect("in memory");
        let mut bytes = writer.into_inner().expect("in memory");
        bytes.pop();
        bytes.extend_from_slice(line_end.as_bytes());
        bytes
    };
    let mut bytes = if draw.below(4) == 0 { b"\xEF\xBB\xBF".to_vec() } else { Vec::new() };
    bytes.extend(row(&table.names));
    for record in &table.records {
        bytes.extend(row(record));
        if draw.below(20) == 0 {
            bytes.extend_from_slice(line_end.as_bytes());
        }
    }
    bytes
}

fn objects(table: &Table) -> impl Iterator<Item = IndexMap<&String, &String>> {
    table.records.iter().map(|record| table.names.iter().zip(record).collect())
}

fn json(value: &impl serde::Serialize) -> String {
    serde_json::to_string(value).expect("JSON")
}

fn workbook(table: &Table, path: &Path) {
    let mut book = rust_xlsxwriter::Workbook::new();
    let sheet = book.add_worksheet();
    for (row, cells) in std::iter::once(&table.names).chain(&table.records).enumerate() {
        for (column, cell) in cells.iter().enumerate().filter(|(_, cell)| !cell.is_empty()) {
            sheet.write_string(row as u32, column as u16, cell).expect("a cell");
        }
    }
    book.save(path).expect("written");
}

fn database(table: &Table, path: &Path) {
    let mut database = rusqlite::Connection::open(path).expect("made");
    let columns: Vec<String> = table.names.iter().map(|name| format!("\"{name}\" TEXT")).collect();
    database.execute_batch(&format!("CREATE TABLE list ({})", columns.join(", "))).expect("made");
    let places = vec!["?"; table.names.len()].join(", ");
    let all = database.transaction().expect("begun");
    for record in &table.records {
        all.execute(&format!("INSERT INTO list VALUES ({places})"), rusqlite::params_from_iter(record))
            .expect("added");
    }
    all.commit().expect("done");
}
