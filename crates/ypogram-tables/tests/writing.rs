//! What is written is read back as it was meant, by the reader that everybody has.

use proptest::prelude::*;
use ypogram_tables::csv::CsvEncoder;

/// Cells with everything in them that a dialect could stumble over.
fn rows() -> impl Strategy<Value = Vec<Vec<String>>> {
    let cell = "[a-zé ,;\t\"'\n\r@]{0,8}";
    (2_usize..5).prop_flat_map(move |width| prop::collection::vec(prop::collection::vec(cell, width), 1..8))
}

proptest! {
    #[test]
    fn rows_are_read_back(rows in rows(), delimiter in prop::sample::select(vec![b',', b';', b'\t']), dos in any::<bool>()) {
        let line_end: &[u8] = if dos { b"\r\n" } else { b"\n" };
        let mut encoder = CsvEncoder::copying(0, delimiter, if dos { b"\r\n" } else { b"\n" });
        let mut written = Vec::new();
        for row in &rows {
            encoder.row(row.iter().map(String::as_str), &mut written);
            prop_assert!(written.ends_with(line_end));
        }
        let mut reader = csv::ReaderBuilder::new().has_headers(false).delimiter(delimiter).from_reader(&written[..]);
        let read: Vec<Vec<String>> =
            reader.records().map(|record| record.unwrap().iter().map(str::to_owned).collect()).collect();
        prop_assert_eq!(&read, &rows, "{}", String::from_utf8_lossy(&written));
        // Only cells that need them are put into quotes.
        let plain = |cell: &String| !cell.contains([delimiter as char, '"', '\n', '\r']);
        if rows.iter().flatten().all(plain) {
            prop_assert!(!written.contains(&b'"'));
        }
    }
}
