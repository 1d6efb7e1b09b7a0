use std::path::Path;

use ypogram_core::{Code, Policy, text};
use ypogram_io::pieces::{Limits, PieceOptions};
use ypogram_io::{IfThere, OpenOptions, OutputFormat, Target};

use crate::FieldChoice;
use crate::Progress;
use crate::Selection;
use crate::jobs::check::{self, Added, CheckOptions};
use crate::jobs::extract::{self, ExtractOptions, RowFormat};
use crate::jobs::survey::{self, SurveyOptions};

/// Panics where `text` asks for it: no text is known with which the program has a fault.
pub(crate) fn provoke(text: &[u8]) {
    assert!(memchr::memmem::find(text, b"provoked-fault").is_none());
}

fn target(path: &Path) -> Target {
    Target::File { path: path.to_path_buf(), if_there: IfThere::Replace }
}

#[test]
fn a_panic_stays_with_its_record() {
    let place = tempfile::tempdir().unwrap();
    let (source, out) = (place.path().join("members.csv"), place.path().join("out.csv"));
    let record = |n: usize| match n % 50 {
        7 => format!("{n},ada.provoked-fault{n}@fernhollow.org\n"),
        8 => format!("{n},\"Ada <provoked-fault{n}@fernhollow.org>\"\n"),
        9 => format!("{n},\"Ada <ada{n}@fernhollow.org>\"\n"),
        _ => format!("{n},ada{n}@fernhollow.org\n"),
    };
    let records: String = (0..500).map(record).collect();
    std::fs::write(&source, format!("id,email\n{records}")).unwrap();
    for threads in [1, 3] {
        let open = OpenOptions { chunk_bytes: 1 << (10 + threads), ..OpenOptions::default() };
        let fields = FieldChoice { address: vec!["email".into()], ..FieldChoice::default() };
        let options = CheckOptions {
            sources: vec![source.clone()],
            open: open.clone(),
            fields: fields.clone(),
            policy: Policy::default(),
            target: target(&out),
            plain: false,
            field_rules: vec![],
            patterns: vec![],
            house: Default::default(),
            selection: Selection::default(),
            from_lists: vec![],
            show: None,
            added: Added::Everything,
            fill: Vec::new(),
            rows: Default::default(),
            prefix: "yp_".into(),
            threads,
            remembered: None,
            hash_key: 7,
        };
        let report = check::run(options, &Progress::default()).unwrap();
        let counts = (report.records, report.tally.findings[Code::ProgramFault.index()]);
        assert_eq!(counts, (500, 20));
        let written = std::fs::read_to_string(&out).unwrap();
        let rows = written.lines().skip(1).zip(records.lines());
        for (row, record) in rows {
            let faulty = record.contains("fault");
            assert!(row.starts_with(record), "{row}");
            assert_eq!(row.contains(",false,reject,program-fault,"), faulty, "{row}");
            assert_eq!(row.contains(",accept,"), !faulty, "{row}");
        }
        let options = SurveyOptions {
            sources: vec![source.clone()],
            open,
            fields,
            policy: Policy::default(),
            only: None,
            field_rules: vec![],
            memory: 1 << 20,
            patterns: vec![],
            fine: false,
            threads,
        };
        let report = survey::run(&options, &Progress::default()).unwrap();
        let counts = &report.counts;
        assert_eq!((counts.records, counts.usable.as_it_stood + counts.usable.after_repair), (500, 480));
        let options = extract_options(&source, &out, threads);
        let report = extract::run(&options, &Progress::default()).unwrap();
        let passed = report.passed[text::SkipReason::ProgramFault as usize];
        assert_eq!((report.addresses, passed), (480, 20));
    }
}

fn extract_options(source: &Path, out: &Path, threads: usize) -> ExtractOptions {
    ExtractOptions {
        sources: vec![source.to_path_buf()],
        pieces: PieceOptions {
            open: OpenOptions { chunk_bytes: 1 << 10, ..OpenOptions::default() },
            overlap: 1 << 8,
            id: None,
            limits: Limits::default(),
        },
        fields: vec![],
        policy: Policy::default(),
        patterns: vec![],
        look: text::Options::default(),
        format: RowFormat::Table(OutputFormat::default()),
        context: 0,
        unique: false,
        show_skipped: false,
        target: target(out),
        memory: 1 << 20,
        threads,
        hash_key: 1,
        first: None,
        rows: Default::default(),
    }
}
