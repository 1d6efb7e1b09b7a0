//! Workbooks whose archive is whole, so that what is fuzzed in them is reached.

use std::io::{Cursor, Write as _};

use zip::write::SimpleFileOptions;
use zip::{CompressionMethod, ZipWriter};

const TYPES: &str = r#"<Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types"><Default Extension="xml" ContentType="application/xml"/><Default Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/><Override PartName="/xl/workbook.xml" ContentType="application/vnd.openxmlformats-officedocument.spreadsheetml.sheet.main+xml"/><Override PartName="/xl/worksheets/sheet1.xml" ContentType="application/vnd.openxmlformats-officedocument.spreadsheetml.worksheet+xml"/></Types>"#;
const RELATIONS: &str = r#"<Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships"><Relationship Id="rId1" Type="http://schemas.openxmlformats.org/officeDocument/2006/relationships/officeDocument" Target="xl/workbook.xml"/></Relationships>"#;
const SHEETS: &str = r#"<workbook xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main" xmlns:r="http://schemas.openxmlformats.org/officeDocument/2006/relationships"><sheets><sheet name="list" sheetId="1" r:id="rId1"/></sheets></workbook>"#;
const RELATIONS_OF_SHEETS: &str = r#"<Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships"><Relationship Id="rId1" Type="http://schemas.openxmlformats.org/officeDocument/2006/relationships/worksheet" Target="worksheets/sheet1.xml"/><Relationship Id="rId2" Type="http://schemas.openxmlformats.org/officeDocument/2006/relationships/sharedStrings" Target="sharedStrings.xml"/></Relationships>"#;

/// A workbook with `parts`: its sheet, and behind a NUL its shared strings.
///
/// # Panics
/// Never: it is written to memory.
pub fn workbook_of(parts: &[u8]) -> Vec<u8> {
    let mut parts = parts.splitn(2, |&byte| byte == 0);
    let (sheet, strings) = (parts.next().unwrap_or_default(), parts.next().unwrap_or_default());
    let mut archive = ZipWriter::new(Cursor::new(Vec::new()));
    let stored = SimpleFileOptions::default().compression_method(CompressionMethod::Stored);
    for (name, content) in [
        ("[Content_Types].xml", TYPES.as_bytes()),
        ("_rels/.rels", RELATIONS.as_bytes()),
        ("xl/workbook.xml", SHEETS.as_bytes()),
        ("xl/_rels/workbook.xml.rels", RELATIONS_OF_SHEETS.as_bytes()),
        ("xl/worksheets/sheet1.xml", sheet),
        ("xl/sharedStrings.xml", strings),
    ] {
        archive.start_file(name, stored).expect("a part of an archive in memory");
        archive.write_all(content).expect("a part of an archive in memory");
    }
    archive.finish().expect("an archive in memory").into_inner()
}
