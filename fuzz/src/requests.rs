//! One address at a time over a pipe: as values, as JSON, and to a register. Each line has one answer.

use ypogram_core::{Grammar, SameMailbox};
use ypogram_jobs::each::{self, EachOptions, Line};
use ypogram_jobs::register::{AskOptions, Store, ask};
use ypogram_jobs::{HouseFormats, Progress};

use super::file::file_of;
use super::judges::policy_by;

/// Tries that with `bytes`.
///
/// # Panics
/// Where that does not hold.
pub fn requests(bytes: &[u8]) {
    let (policy, progress) = (policy_by(Grammar::Smtp), Progress::default());
    for line in [Line::Value, Line::Json("email".to_owned())] {
        let options = EachOptions {
            line,
            policy,
            patterns: Vec::new(),
            house: HouseFormats::default(),
            from_lists: Vec::new(),
            remembered: None,
        };
        let mut answers = Vec::new();
        let report = each::run(bytes, &mut answers, &options, &progress).expect("pipes in memory");
        assert_eq!(report.answered + report.unusable, lines(&answers));
    }
    let path = file_of("register", b"");
    std::fs::remove_file(&path).expect("it is there");
    Store::create(&path, SameMailbox::Provider).expect("a register can be made");
    let store = Store::open(&path).expect("a register that was made can be opened");
    let options = AskOptions { policy, admits_review: true, source: "fuzz" };
    let mut answers = Vec::new();
    let now = || "2026-01-01T00:00:00Z".to_owned();
    let counts = ask(&store, (bytes, &mut answers), &options, now, &progress).expect("pipes in memory");
    assert_eq!(counts.iter().sum::<u64>(), lines(&answers));
}

fn lines(answers: &[u8]) -> u64 {
    answers.iter().filter(|&&byte| byte == b'\n').count() as u64
}
