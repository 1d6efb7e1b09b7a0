//! Sources as a job sees them: dialects, encodings, compression, records of any length.

use std::io::Write as _;
use std::path::{Path, PathBuf};

use tempfile::TempDir;
#[cfg(feature = "sqlite")]
use ypogram_io::EveryTable;
use ypogram_io::csv::Header;
use ypogram_io::{Batch, Chunk, Format, OpenOptions, OutputFile, OutputFolder, open};

struct Place(TempDir);

impl Place {
    fn new() -> Self {
        Place(TempDir::new().unwrap())
    }

    fn write(&self, name: &str, bytes: &[u8]) -> PathBuf {
        let path = self.0.path().join(name);
        std::fs::write(&path, bytes).unwrap();
        path
    }
}

/// The fields, and every record's cells.
fn read(path: &Path, options: &OpenOptions) -> Result<(Vec<String>, Vec<Vec<String>>), String> {
    let mut source = open(path, options).map_err(|error| error.message)?;
    let mut decoder = source.decoder();
    let (mut chunk, mut batch, mut records) = (Chunk::default(), Batch::default(), Vec::new());
    while source.next_chunk(&mut chunk).map_err(|error| error.message)? {
        batch.clear();
        decoder.decode(&chunk, &mut batch).map_err(|error| error.message)?;
        let cells = batch
            .records(&chunk)
            .map(|record| record.cells().map(|c| String::from_utf8_lossy(c).into_owned()).collect());
        records.extend(cells);
    }
    Ok((source.schema().fields.clone(), records))
}

fn gzip(bytes: &[u8]) -> Vec<u8> {
    let mut encoder = flate2::write::GzEncoder::new(Vec::new(), flate2::Compression::fast());
    encoder.write_all(bytes).unwrap();
    encoder.finish().unwrap()
}

/// A file's name and bytes, and the fields and records that come out.
type Row<'a> = (&'a str, &'a [u8], &'a [&'a str], &'a [&'a [&'a str]]);

#[test]
fn dialects_and_encodings() {
    let place = Place::new();
    let utf16: Vec<u8> =
        [0xFE, 0xFF].into_iter().chain("a;b\nä;2\n".encode_utf16().flat_map(u16::to_be_bytes)).collect();
    let two_members = [gzip(b"a,b\n1,"), gzip(b"2\n")].concat();
    let rows: &[Row<'_>] = &[
        ("comma.csv", b"a,b\n1,2\n", &["a", "b"], &[&["1", "2"]]),
        ("semicolon.csv", b"a;b\n\"1,5\";2,5\n", &["a", "b"], &[&["1,5", "2,5"]]),
        ("tab.csv", b"a\tb\n1\t2", &["a", "b"], &[&["1", "2"]]),
        ("bar.csv", b"a|b\r\n1|2\r\n", &["a", "b"], &[&["1", "2"]]),
        ("tab.tsv", b"a,b\tc\n1,2\t3\n", &["a,b", "c"], &[&["1,2", "3"]]),
        ("one.csv", b"email\n\n\nx\n", &["email"], &[&["x"]]),
        ("names.csv", b" a ,,\"c\"\n1,2,3\n", &["a", "field2", "c"], &[&["1", "2", "3"]]),
        (
            "quotes.csv",
            b"a,b\n\"x\ny\",\"z\"\"z\"\nq\"q,\"r\"s\n",
            &["a", "b"],
            &[&["x\ny", "z\"z"], &["q\"q", "rs"]],
        ),
        ("mark.csv", b"\xEF\xBB\xBFa,b\n1,2\n", &["a", "b"], &[&["1", "2"]]),
        ("wide.csv", &utf16, &["a", "b"], &[&["ä", "2"]]),
        ("packed.csv.gz", &two_members, &["a", "b"], &[&["1", "2"]]),
        ("packed.csv.zst", &zstd::encode_all(&b"a,b\n1,2\n"[..], 1).unwrap(), &["a", "b"], &[&["1", "2"]]),
        ("notes.md", b"one\r\n\ntwo", &["line"], &[&["one"], &["two"]]),
    ];
    for (name, bytes, fields, records) in rows {
        let path = place.write(name, bytes);
        for chunk_bytes in [1, 3, 1 << 16] {
            let options = OpenOptions { chunk_bytes, ..OpenOptions::default() };
            let (found_fields, found) = read(&path, &options).unwrap();
            assert_eq!(found_fields, *fields, "{name}");
            assert_eq!(found, *records, "{name} in chunks of {chunk_bytes}");
        }
    }
    let path = place.write("told.txt", b"1;2\n3;4\n");
    let options = OpenOptions {
        format: Some(Format::Csv),
        delimiter: Some(b';'),
        header: Header::Missing,
        ..OpenOptions::default()
    };
    assert_eq!(read(&path, &options).unwrap().0, ["field1", "field2"]);
}

#[test]
fn long_records_and_broken_ones() {
    let place = Place::new();
    let long = "y".repeat(300_000);
    let path = place.write("long.csv", format!("{long},b\n1,\"{long}\n{long}\"\n").as_bytes());
    let (fields, records) = read(&path, &OpenOptions::default()).unwrap();
    assert_eq!(
        (fields[0].len(), records.len(), records[0][1].len()),
        (300_000, 1, 600_001),
        "longer than sample and chunk"
    );

    let path = place.write("endless.csv", format!("a,b\n1,\"{}", "x".repeat(17 << 20)).as_bytes());
    let told = read(&path, &OpenOptions::default()).unwrap_err();
    assert!(told.contains("the record at byte 4 is longer than 16 MiB"), "{told}");

    let whole = gzip(&b"a,b\n".repeat(50_000));
    let path = place.write("cut.csv.gz", &whole[..whole.len() - 20]);
    let told = read(&path, &OpenOptions::default()).unwrap_err();
    assert!(told.contains("the compressed input breaks off"), "{told}");
    let salvaged = read(&path, &OpenOptions { salvage: true, ..OpenOptions::default() }).unwrap();
    assert!(salvaged.1.len() > 1000);
}

#[test]
fn fingerprints_are_of_the_file_as_it_lies_there() {
    let place = Place::new();
    let packed = gzip(b"a,b\n1,2\n");
    let path = place.write("x.csv.gz", &packed);
    let mut source = open(&path, &OpenOptions::default()).unwrap();
    let mut chunk = Chunk::default();
    while source.next_chunk(&mut chunk).unwrap() {}
    let fingerprint = source.fingerprint();
    assert_eq!(
        (fingerprint.bytes, fingerprint.blake3),
        (packed.len() as u64, blake3::hash(&packed).to_hex().to_string())
    );
}

#[test]
fn outputs_appear_whole_or_not_at_all() {
    fn none(_: &Path) -> ypogram_io::Result<Vec<String>> {
        Ok(Vec::new())
    }
    fn one(_: &Path) -> ypogram_io::Result<Vec<String>> {
        Ok(vec!["a.csv".into()])
    }
    let place = Place::new();
    let folder = place.0.path().join("out");
    let names = |folder: &PathBuf| {
        let mut names: Vec<String> = std::fs::read_dir(folder)
            .map(|all| all.map(|e| e.unwrap().file_name().into_string().unwrap()).collect())
            .unwrap_or_default();
        names.sort();
        names
    };
    {
        let prepared = OutputFolder::prepare(&folder, false, none, &["a.csv".into()]).unwrap();
        let mut file = OutputFile::create(&prepared.place("a.csv")).unwrap();
        file.write(b"half").unwrap();
    }
    assert!(!folder.exists(), "given up: neither file nor folder is left");

    let prepared = OutputFolder::prepare(&folder, false, none, &["a.csv".into()]).unwrap();
    let mut file = OutputFile::create(&prepared.place("a.csv")).unwrap();
    file.write(b"whole").unwrap();
    assert!(names(&folder).iter().all(|name| name != "a.csv"), "not under its name yet");
    prepared.publish(vec![file], none).unwrap();
    assert_eq!(names(&folder), ["a.csv"]);

    assert!(OutputFolder::prepare(&folder, false, none, &["b.csv".into()]).is_err(), "not empty");
    assert!(OutputFolder::prepare(&folder, true, none, &["a.csv".into()]).is_err(), "not ours");
    assert!(OutputFolder::prepare(&folder, true, one, &["a.csv".into()]).is_ok());
}

#[cfg(feature = "sqlite")]
#[test]
fn every_table_of_a_file_comes_once_unless_one_is_named() {
    let place = Place::new();
    let path = place.0.path().join("desk.db");
    let database = rusqlite::Connection::open(&path).unwrap();
    database
        .execute_batch(
            "CREATE TABLE loans (mail TEXT); INSERT INTO loans VALUES ('ada@h-works.org'), ('bea@h-works.org');
             CREATE TABLE members (id INTEGER, mail TEXT); INSERT INTO members VALUES (1, 'cleo@h-works.org');",
        )
        .unwrap();
    let csv = place.write("one.csv", b"mail\nada@h-works.org\n");
    let named = PathBuf::from(format!("{}#members", path.display()));
    let sheet = OpenOptions { sheet: Some("loans".into()), ..OpenOptions::default() };
    for (path, options, expected) in [
        (&path, OpenOptions::default(), vec![("desk.db#loans", 1), ("desk.db#members", 2)]),
        (&named, OpenOptions::default(), vec![("desk.db", 2)]),
        (&path, sheet, vec![("desk.db", 1)]),
        (&csv, OpenOptions::default(), vec![("one.csv", 1)]),
    ] {
        let mut tables = EveryTable::of(path, &options).unwrap();
        let mut found = Vec::new();
        while let Some(table) = tables.next_table().unwrap() {
            let name = table.name().rsplit('/').next().unwrap().to_owned();
            found.push((name, table.schema().fields.len()));
        }
        let expected: Vec<(String, usize)> = expected.into_iter().map(|(name, n)| (name.into(), n)).collect();
        assert_eq!(found, expected, "{}", path.display());
    }
    let missing = PathBuf::from(format!("{}#visits", path.display()));
    let error = EveryTable::of(&missing, &OpenOptions::default()).err().unwrap();
    assert!(error.message.contains("visits"), "{error}");
}

/// SQLite takes whatever bytes a name has, and so does a damaged file.
#[cfg(feature = "sqlite")]
#[test]
fn names_of_columns_that_are_not_utf_8() {
    let place = Place::new();
    let path = place.0.path().join("desk.db");
    let database = rusqlite::Connection::open(&path).unwrap();
    database.execute_batch("CREATE TABLE loans (m__l TEXT)").unwrap();
    database.close().unwrap();
    let mut bytes = std::fs::read(&path).unwrap();
    let at = bytes.windows(4).position(|window| window == b"m__l").unwrap();
    bytes[at + 1..at + 3].copy_from_slice(b"\xE4\xEF");
    std::fs::write(&path, bytes).unwrap();
    let error = open(&path, &OpenOptions::default()).err().unwrap();
    assert!(error.message.contains("the definition of ‘loans’ is not in UTF-8"), "{error}");
}
