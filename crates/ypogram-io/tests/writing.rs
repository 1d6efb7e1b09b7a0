//! Rows that are written are read back as they were meant, by the readers that everybody has.

use std::sync::Arc;

use proptest::prelude::*;
use ypogram_io::csv::TextLayout;
use ypogram_io::{
    Batch, Chunk, EncodedRows, Format, OpenOptions, OutRow, OutputFormat, OwnFields, Projection, RowOutput,
    RowSpec, RowWriter, SortBy, SourceKind, Template, TemplateCell, Values, open,
};

/// The added columns of all rows here: a text with a quote, the row's number as a text and as a number, yes, and nothing.
const ADDED: [&str; 5] = ["said", "nth_text", "nth", "flag", "none"];

fn template() -> Template {
    let said = TemplateCell::Text(b"so \"it\", is"[..].into());
    let cells = [
        said,
        TemplateCell::Value(0),
        TemplateCell::Number(1),
        TemplateCell::Bool(true),
        TemplateCell::Nothing,
    ];
    Template { cells: cells.into() }
}

/// What stands in the added cells of the row at `nth`.
fn added_cells(nth: usize) -> [String; 5] {
    ["so \"it\", is".into(), format!("no. {nth}"), nth.to_string(), "true".into(), String::new()]
}

/// The table in `bytes`, read as `from` and written as `to` with the added columns.
fn written(bytes: &[u8], from: Format, to: (Format, TextLayout), spec: &RowSpec) -> Vec<u8> {
    written_with(bytes, from, to, (spec, &ADDED))
}

/// The same in its own format, with nothing added.
fn copied(bytes: &[u8], format: Format, layout: TextLayout) -> Vec<u8> {
    written_with(bytes, format, (format, layout), (&RowSpec::default(), &[]))
}

fn written_with(
    bytes: &[u8],
    from: Format,
    to: (Format, TextLayout),
    (spec, added): (&RowSpec, &[&str]),
) -> Vec<u8> {
    let folder = tempfile::tempdir().unwrap();
    let (path, out) = (folder.path().join("in"), folder.path().join("out"));
    std::fs::write(&path, bytes).unwrap();
    let delimiter = (from == Format::Csv).then_some(to.1.delimiter);
    let options = OpenOptions { format: Some(from), delimiter, chunk_bytes: 40, ..OpenOptions::default() };
    let mut source = open(&path, &options).unwrap();
    let fields = source.schema().fields.clone();
    let own = vec![OwnFields {
        places: (0..fields.len()).map(Some).collect(),
        width: fields.len(),
        can_be_copied: from == to.0,
    }];
    let added: Vec<String> = added.iter().map(|name| (*name).to_owned()).collect();
    let projection = Projection::new(spec, &fields, &added).unwrap();
    let projection = Arc::new(projection.with_types(&source.schema().types.clone(), &[]));
    let format = match to.0 {
        Format::Csv | Format::Tsv => OutputFormat::Separated(to.1),
        other => OutputFormat::Other(other),
    };
    let header = match &source.schema().kind {
        SourceKind::Separated { header, .. } if from == to.0 && added.is_empty() => header.clone(),
        _ => None,
    };
    let encoder = format.encoder(&own, &projection, header);
    let mut writer = RowWriter::new(encoder, own, Arc::clone(&projection));
    writer.add_template(if added.is_empty() { Template::default() } else { template() });
    let file = ypogram_io::OutputFile::create(&out).unwrap();
    let mut output = RowOutput::begin(file, &writer.opening(), &projection).unwrap();
    let (mut decoder, mut chunk, mut batch, mut nth) =
        (source.decoder(), Chunk::default(), Batch::default(), 0);
    while source.next_chunk(&mut chunk).unwrap() {
        batch.clear();
        decoder.decode(&chunk, &mut batch).unwrap();
        let (mut rows, mut values) = (EncodedRows::default(), Values::default());
        values.clear(2);
        for record in batch.records(&chunk) {
            let row = values.add_row();
            let place = values.append(format!("no. {nth}").as_bytes());
            values.set(row, 0, place);
            values.set_number(row, 1, nth);
            let out = OutRow {
                record: Some(record),
                template: 0,
                values: values.of_row(row),
                values_are_simple: false,
                record_is_simple: false,
                replaced: &[],
            };
            writer.row(&out, &mut rows);
            nth += 1;
        }
        output.write(&rows).unwrap();
    }
    output.finish().unwrap().publish().unwrap();
    std::fs::read(&out).unwrap()
}

fn text(bytes: &[u8], spec: &RowSpec) -> String {
    let layout = TextLayout { delimiter: b';', ..TextLayout::default() };
    String::from_utf8(written(bytes, Format::Csv, (Format::Csv, layout), spec)).unwrap()
}

fn columns(names: &[&str]) -> Vec<(String, String)> {
    names.iter().map(|name| ((*name).to_owned(), format!("{name}*"))).collect()
}

/// Cells with everything in them that a format could stumble over.
fn table() -> impl Strategy<Value = Vec<Vec<String>>> {
    let cell = "[a-zé ,;\t\"'\n\r@=]{0,8}";
    prop::collection::vec(prop::collection::vec(cell, 3), 1..8)
}

fn as_csv(rows: &[Vec<String>], delimiter: u8) -> Vec<u8> {
    let mut writer = csv::WriterBuilder::new().delimiter(delimiter).from_writer(Vec::new());
    writer.write_record(["a", "b", "c"]).unwrap();
    rows.iter().for_each(|row| writer.write_record(row).unwrap());
    writer.into_inner().unwrap()
}

fn read_csv(bytes: &[u8], delimiter: u8) -> Vec<Vec<String>> {
    let reader = csv::ReaderBuilder::new().delimiter(delimiter).from_reader(bytes);
    reader.into_records().map(|row| row.unwrap().iter().map(str::to_owned).collect()).collect()
}

/// The cells of a file in that format as ours reads them, with what they hold.
fn read_back(bytes: &[u8], format: Format) -> Vec<Vec<(String, String)>> {
    let folder = tempfile::tempdir().unwrap();
    let path = folder.path().join("file");
    std::fs::write(&path, bytes).unwrap();
    let options = OpenOptions { format: Some(format), chunk_bytes: 100, ..OpenOptions::default() };
    let mut source = open(&path, &options).unwrap();
    let (mut decoder, mut chunk, mut batch) = (source.decoder(), Chunk::default(), Batch::default());
    let mut rows = Vec::new();
    while source.next_chunk(&mut chunk).unwrap() {
        batch.clear();
        decoder.decode(&chunk, &mut batch).unwrap();
        for record in batch.records(&chunk) {
            let cell = |place: usize| {
                let text = String::from_utf8_lossy(record.cell(place).unwrap_or_default()).into_owned();
                let kind = format!("{:?}", record.value(place));
                (text, kind.split('(').next().unwrap_or_default().to_owned())
            };
            rows.push((0..record.len()).map(cell).collect());
        }
    }
    rows
}

/// A cell that an apostrophe guards reads without it.
fn unguarded(cell: &str) -> &str {
    let rest = cell.strip_prefix('\'').filter(|rest| ypogram_io::csv::is_formula_like(rest.as_bytes()));
    rest.unwrap_or(cell)
}

proptest! {
    #[test]
    fn csv_reads_back_whatever_is_chosen(
        rows in table(),
        places in prop::collection::vec(0_usize..8, 0..6),
        delimiter in prop::sample::select(vec![b',', b';', b'\t', b'|']),
        dos in any::<bool>(),
    ) {
        let line_end: &[u8] = if dos { b"\r\n" } else { b"\n" };
        let layout = TextLayout { delimiter, line_end, byte_order_mark: false };
        let names = ["a", "b", "c", ADDED[0], ADDED[1], ADDED[2], ADDED[3], ADDED[4]];
        let mut chosen: Vec<usize> = Vec::new();
        places.into_iter().for_each(|place| if !chosen.contains(&place) { chosen.push(place) });
        // A row of one empty cell is a blank line, which is no record.
        if let [only] = chosen[..] {
            chosen.push((only + 1) % 8);
        }
        let spec = RowSpec {
            columns: columns(&chosen.iter().map(|&place| names[place]).collect::<Vec<_>>()),
            ..RowSpec::default()
        };
        let out = written(&as_csv(&rows, delimiter), Format::Csv, (Format::Csv, layout), &spec);
        prop_assert!(out.ends_with(line_end));
        let all = if chosen.is_empty() { (0..8).collect() } else { chosen };
        let expected: Vec<Vec<String>> = rows.iter().enumerate().map(|(nth, row)| {
            let cells: Vec<String> = row.iter().cloned().chain(added_cells(nth)).collect();
            all.iter().map(|&place| cells[place].clone()).collect()
        }).collect();
        prop_assert_eq!(read_csv(&out, delimiter), expected, "{}", String::from_utf8_lossy(&out));
    }

    #[test]
    fn json_lines_say_what_the_table_says(rows in table()) {
        let (layout, spec) = (TextLayout::default(), RowSpec::default());
        let lines = written(&as_csv(&rows, b','), Format::Csv, (Format::JsonLines, layout), &spec);
        let objects: Vec<serde_json::Value> =
            lines.split_inclusive(|&b| b == b'\n').map(|line| serde_json::from_slice(line).unwrap()).collect();
        prop_assert_eq!(objects.len(), rows.len());
        for (nth, (object, row)) in objects.iter().zip(&rows).enumerate() {
            let row: Vec<&str> = row.iter().map(|cell| unguarded(cell)).collect();
            prop_assert_eq!(object, &serde_json::json!({ "a": row[0], "b": row[1], "c": row[2],
                "said": "so \"it\", is", "nth_text": format!("no. {nth}"), "nth": nth, "flag": true, "none": null }));
        }
        // And back: the same cells, those of the first pass among them.
        let own: Vec<String> = ["a", "b", "c"].map(str::to_owned).into();
        let lines = lines.split(|&b| b == b'\n').filter(|line| !line.is_empty());
        let bare: Vec<Vec<u8>> = lines.map(|line| {
            let mut object: serde_json::Map<String, serde_json::Value> = serde_json::from_slice(line).unwrap();
            object.retain(|key, _| own.contains(key));
            [serde_json::to_vec(&object).unwrap(), b"\n".to_vec()].concat()
        }).collect();
        let back = written(&bare.concat(), Format::JsonLines, (Format::Csv, layout), &spec);
        for (found, row) in read_csv(&back, b',').iter().zip(&rows) {
            let row: Vec<&str> = row.iter().map(|cell| unguarded(cell)).collect();
            prop_assert_eq!(&found[..3], &row[..]);
        }
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(40))]

    /// The same cells, whatever the format; numbers and answers keep their kind.
    #[test]
    fn other_formats_keep_cells_and_kinds(rows in table()) {
        let (layout, spec) = (TextLayout::default(), RowSpec::default());
        for format in [Format::Json, Format::JsonLines, Format::Xlsx, Format::Sqlite] {
            let file = written(&as_csv(&rows, b','), Format::Csv, (format, layout), &spec);
            let back = read_back(&file, format);
            prop_assert_eq!(back.len(), rows.len(), "{:?}", format);
            for (nth, (found, row)) in back.iter().zip(&rows).enumerate() {
                let own: Vec<&str> = row.iter().map(|cell| unguarded(cell)).collect();
                let found_own: Vec<&str> = found[..3].iter().map(|(text, _)| &**text).collect();
                prop_assert_eq!(&found_own, &own, "{:?}", format);
                let nth = ("nth", nth.to_string(), "Integer");
                let flag = match format {
                    Format::Xlsx => ("flag", "TRUE".to_owned(), "Bool"),
                    Format::Sqlite => ("flag", "1".to_owned(), "Integer"),
                    _ => ("flag", "true".to_owned(), "Bool"),
                };
                let said = ("said", "so \"it\", is".to_owned(), "Text");
                for (place, (name, text, kind)) in [(3, said), (5, nth), (6, flag)] {
                    prop_assert_eq!(&found[place], &(text, kind.to_owned()), "{:?} {}", format, name);
                }
            }
        }
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(40))]

    /// What is read and written in the same format with nothing added is the same bytes where that is text, else the same cells.
    #[test]
    fn the_same_format_gives_the_same(
        rows in table(),
        delimiter in prop::sample::select(vec![b',', b';', b'\t', b'|']),
    ) {
        let (layout, spec) = (TextLayout { delimiter, ..TextLayout::default() }, RowSpec::default());
        let csv = as_csv(&rows, delimiter);
        prop_assert_eq!(String::from_utf8(copied(&csv, Format::Csv, layout)), String::from_utf8(csv.clone()));
        for format in [Format::JsonLines, Format::Json, Format::Vcard, Format::Ldif] {
            let file = written(&csv, Format::Csv, (format, layout), &spec);
            let same = copied(&file, format, layout);
            prop_assert_eq!(String::from_utf8_lossy(&same), String::from_utf8_lossy(&file), "{:?}", format);
        }
        for format in OF_CELLS {
            let file = written(&csv, Format::Csv, (*format, layout), &spec);
            let same = copied(&file, *format, layout);
            prop_assert_eq!(read_back(&same, *format), read_back(&file, *format), "{:?}", format);
        }
    }
}

/// Formats of cells with types.
#[cfg(not(feature = "parquet"))]
const OF_CELLS: &[Format] = &[Format::Xlsx, Format::Sqlite];
#[cfg(feature = "parquet")]
const OF_CELLS: &[Format] =
    &[Format::Xlsx, Format::Sqlite, Format::Parquet, Format::Arrow, Format::ArrowStream];

/// Cards and entries that Ypogram writes hold the cells of the table, each as a value of its own.
#[test]
fn address_books_hold_the_columns() {
    let table = "name,email,note\nAda Lovell,ada@h-works.org,\"a; b, c\nd\"\nJürgen,\"j@h-works.org, k@h-works.org\",\n";
    let (layout, spec) =
        (TextLayout::default(), RowSpec { columns: columns_as_they_are(), ..RowSpec::default() });
    for (format, name) in [(Format::Vcard, "fn"), (Format::Ldif, "name")] {
        let file = written(table.as_bytes(), Format::Csv, (format, layout), &spec);
        let folder = tempfile::tempdir().unwrap();
        let path = folder.path().join("book");
        std::fs::write(&path, &file).unwrap();
        let source = open(&path, &OpenOptions { format: Some(format), ..OpenOptions::default() }).unwrap();
        let fields = source.schema().fields.clone();
        let rows = read_back(&file, format);
        let cell = |row: usize, field: &str| {
            let place = fields.iter().position(|known| known == field).expect("the field is there");
            rows[row][place].0.clone()
        };
        assert_eq!((cell(0, name), cell(1, name)), ("Ada Lovell".into(), "Jürgen".into()));
        assert_eq!(cell(0, "note"), "a; b, c\nd", "{}", String::from_utf8_lossy(&file));
        assert_eq!(cell(1, "email"), "j@h-works.org, k@h-works.org");
        let emails = String::from_utf8_lossy(&file).matches("@h-works.org").count();
        assert_eq!(emails, 3, "each address is a value of its own");
    }
}

fn columns_as_they_are() -> Vec<(String, String)> {
    ["name", "email", "note"].map(|name| (name.to_owned(), name.to_owned())).into()
}

#[test]
fn cells_move_with_their_quotes_and_guards() {
    let table = b"a;b;c\nx;y;\"1,\n\"\"2\"\n\"q\";'=1+1;3;surplus;\"more\"\nlast\n";
    let upper = vec![("a".to_owned(), <[u8]>::to_ascii_uppercase as fn(&[u8]) -> Vec<u8>)];
    let spec = RowSpec { columns: columns(&["c", "b", "a"]), changed: upper, ..RowSpec::default() };
    assert_eq!(text(table, &spec), "c*;b*;a*\n\"1,\n\"\"2\";y;X\n3;'=1+1;Q\n;;LAST\n");
    let spec = RowSpec { left_out: vec!["b".into(), "said".into()], ..RowSpec::default() };
    let expected = "a;c;nth_text;nth;flag;none\nx;\"1,\n\"\"2\";no. 0;0;true;\n\
        \"q\";3;no. 1;1;true;;surplus;\"more\"\nlast;;no. 2;2;true;\n";
    assert_eq!(text(table, &spec), expected);
    let spec = RowSpec { guard_formulas: true, columns: columns(&["a", "b"]), ..RowSpec::default() };
    assert_eq!(text(b"a;b\n=1;'=2\n-3;-x\n", &spec), "a*;b*\n'=1;'=2\n-3;'-x\n");
}

#[test]
fn rows_are_sorted_and_equal_ones_stay() {
    fn bytes(cell: &[u8], key: &mut Vec<u8>) {
        key.extend_from_slice(cell);
    }
    let by = |column: &str, downwards| SortBy { column: column.into(), downwards, key: bytes };
    let table = b"a;b;c\nx;\"2\";1\ny;1;2\nx;2;3\nab;22;4\na;2;5\na;;6\n";
    for (sort_by, order) in [
        (vec![by("b", false)], "2 1 3 5 4 6"),
        (vec![by("b", true)], "4 1 3 5 2 6"),
        (vec![by("a", true), by("nth", false)], "2 1 3 4 5 6"),
        (vec![by("nth", true)], "6 5 4 3 2 1"),
    ] {
        for memory in [1 << 20, 0] {
            let spec =
                RowSpec { sort_by: sort_by.clone(), memory, columns: columns(&["c"]), ..RowSpec::default() };
            let text = text(table, &spec);
            let rows: Vec<&str> = text.lines().skip(1).collect();
            assert_eq!(rows.join(" "), order, "{sort_by:?} within {memory} bytes");
        }
    }
}

#[test]
fn wrong_columns_are_refused() {
    let own = ["a", "b"].map(str::to_owned);
    for (columns, told) in [("d=x", "no column ‘d’"), ("a=x b=x", "two columns would be called ‘x’")]
    {
        let pairs = columns.split(' ').filter_map(|pair| pair.split_once('='));
        let columns = pairs.map(|(name, shown)| (name.to_owned(), shown.to_owned())).collect();
        let error = Projection::new(&RowSpec { columns, ..RowSpec::default() }, &own, &[]).unwrap_err();
        assert!(error.message.contains(told), "{}", error.message);
    }
}

/// Objects are kept whole; the columns that are chosen come out as they stand.
#[test]
fn objects_keep_what_is_in_them() {
    let lines =
        b"{\"a\": 1.50, \"b\": {\"c\": [1, \"x\"], \"d\": {}}, \"e\": \"\\u00e9\"} \n\n {}\r\n{ \"b\":null }";
    let (to, spec) = ((Format::JsonLines, TextLayout::default()), RowSpec::default());
    let added = |nth: usize| {
        format!(
            "\"said\":\"so \\\"it\\\", is\",\"nth_text\":\"no. {nth}\",\"nth\":{nth},\"flag\":true,\"none\":null}}\n"
        )
    };
    let whole = String::from_utf8(written(lines, Format::JsonLines, to, &spec)).unwrap();
    let first = "{\"a\": 1.50, \"b\": {\"c\": [1, \"x\"], \"d\": {}}, \"e\": \"\\u00e9\",";
    assert_eq!(whole, format!("{first}{}{{{}{{ \"b\":null,{}", added(0), added(1), added(2)));
    let spec = RowSpec { columns: columns(&["e", "b.c", "a", "nth"]), ..RowSpec::default() };
    let chosen = String::from_utf8(written(lines, Format::JsonLines, to, &spec)).unwrap();
    let expected =
        "{\"e*\":\"\\u00e9\",\"b.c*\":[1, \"x\"],\"a*\":1.50,\"nth*\":0}\n{\"nth*\":1}\n{\"nth*\":2}\n";
    assert_eq!(chosen, expected);
    let csv = written(lines, Format::JsonLines, (Format::Csv, TextLayout::default()), &spec);
    assert_eq!(String::from_utf8(csv).unwrap(), "e*,b.c*,a*,nth*\né,\"1, x\",1.50,0\n,,,1\n,,,2\n");
}
