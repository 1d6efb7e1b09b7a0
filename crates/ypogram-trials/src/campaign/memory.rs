//! What `--help` promises of `--memory` holds on lists with more domains and mailboxes than there is memory for.

use std::io::Write as _;
use std::path::Path;
use std::process::{Output, Stdio};
use std::time::{Duration, Instant};

use crate::campaign::{Outcome, Scale};
use crate::program::{command, said};

/// What a run may take beside `--memory`, in megabytes: as the help says, 60 and 8 for each thread.
const BESIDE: u64 = 60 + 2 * 8;

/// Commands whose memory is bound, and what they are given, in megabytes.
const CALLS: [(&str, u64); 9] = [
    ("survey list.csv", 64),
    ("check list.csv -q -o made.csv --force", 64),
    ("clean list.csv -q -o out --force", 256),
    ("dedupe list.csv -q -o made.csv --force", 256),
    ("dedupe list.csv -q -o made.csv --survivor last --force", 256),
    ("extract list.csv -q --unique -o made.csv --force", 256),
    ("domains list.csv -q -o made.csv --force", 256),
    ("compare list.csv --with list.csv -q --mark -o made.csv --force", 256),
    ("check list.csv -q --sort-by note -o made.csv --force", 256),
];

/// Measures the peak of each.
pub fn run(scale: Scale) -> Outcome {
    let mut outcome = Outcome::default();
    if !cfg!(target_os = "linux") {
        outcome.left_out.push("memory is measured on Linux alone".into());
        return outcome;
    }
    let (records, domains) = (scale.cases(300_000, 30_000_000), scale.cases(100_000, 10_000_000));
    let folder = tempfile::tempdir().expect("a temporary folder");
    let mut file =
        std::io::BufWriter::new(std::fs::File::create(folder.path().join("list.csv")).expect("made"));
    file.write_all(b"nr,email,note\n").expect("written");
    for nth in 0..records {
        // So that neighbours are far from one another in any order.
        let domain = nth.wrapping_mul(0x9E37_79B9_7F4A_7C15) % domains;
        writeln!(
            file,
            "{nth},guest{}@d{domain}.org,n{}",
            nth % 7,
            nth.wrapping_mul(2_654_435_761) % 1_000_003
        )
        .expect("written");
    }
    file.flush().expect("written");
    outcome.add("records", records);
    let mut most = 0;
    for (call, memory) in CALLS {
        // A short list fits in less; it is given so much less that it has to spill.
        let memory = if scale == Scale::Short { memory / 16 } else { memory };
        let call = format!("{call} --threads 2 --memory {memory}M");
        let call =
            if call.starts_with("survey") { call.replace(&format!(" --memory {memory}M"), "") } else { call };
        let (ended, peak) = peak_of(folder.path(), &call, Duration::from_secs(3600));
        outcome.count("runs");
        let Some(ended) = ended else {
            outcome.faults.push(format!("memory: {call} does not end"));
            continue;
        };
        outcome.expect(matches!(ended.status.code(), Some(0 | 1)), || {
            format!("memory: {call}: {}", said(&ended))
        });
        let bound = memory + BESIDE + if call.starts_with("survey") { 200 } else { 0 };
        outcome.expect(peak <= bound, || format!("memory: {call} takes {peak} MB of {bound}"));
        most = most.max(peak);
        println!("  {peak:>5} MB of {bound}: {call}");
    }
    outcome.add("MB at most", most);
    outcome
}

/// Runs `call` and watches its memory: what came of it, and the most that it had, in megabytes. Nothing came of it where it took too long.
///
/// # Panics
/// Where it cannot be run.
pub fn peak_of(folder: &Path, call: &str, patience: Duration) -> (Option<Output>, u64) {
    let output = tempfile::tempfile().expect("a temporary file");
    let mut child = command(folder, call)
        .stdin(Stdio::null())
        .stdout(output.try_clone().expect("twice"))
        .stderr(output.try_clone().expect("twice"))
        .spawn()
        .expect("it runs");
    let (begun, mut peak) = (Instant::now(), 0);
    let status = format!("/proc/{}/status", child.id());
    let ended = loop {
        let now = std::fs::read_to_string(&status).unwrap_or_default();
        let most = now
            .lines()
            .find_map(|line| line.strip_prefix("VmHWM:")?.split_whitespace().next()?.parse::<u64>().ok());
        peak = peak.max(most.unwrap_or_default() / 1024);
        match child.try_wait().expect("asked") {
            Some(status) => break Some(status),
            None if begun.elapsed() > patience => {
                let _ = child.kill();
                let _ = child.wait();
                break None;
            }
            None => std::thread::sleep(Duration::from_millis(2)),
        }
    };
    let text = read_all(output);
    (ended.map(|status| Output { status, stdout: text, stderr: Vec::new() }), peak)
}

fn read_all(mut file: std::fs::File) -> Vec<u8> {
    use std::io::{Read as _, Seek as _};
    let mut text = Vec::new();
    let _ = file.rewind();
    let _ = file.read_to_end(&mut text);
    text
}
