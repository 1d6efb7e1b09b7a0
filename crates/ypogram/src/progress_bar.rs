//! A bar on standard error while a long input is read, and the wish to stop from the keyboard.

use std::io::IsTerminal as _;
use std::path::PathBuf;
use std::sync::Arc;
use std::sync::atomic::{AtomicBool, Ordering};
use std::time::Duration;

use indicatif::{ProgressBar, ProgressStyle};
use ypogram_io::{Result, SourcePlace};
use ypogram_jobs::Progress;
#[cfg(feature = "dns")]
use ypogram_jobs::dns::AskProgress;

use crate::signals;

/// Inputs shorter than this are done before a bar would be seen.
const LONG: u64 = 32 << 20;

/// Runs `job`, showing how far it is and passing on the wish to stop.
pub(crate) fn watch<T>(
    sources: &[PathBuf],
    quiet: bool,
    job: impl FnOnce(&Progress) -> Result<T>,
) -> Result<T> {
    let progress = Arc::new(Progress::default());
    let stop = Arc::clone(&progress);
    let on_stop = move || {
        stop.stop();
        ypogram_io::stop_waiting();
    };
    signals::watch(on_stop)?;
    let total: u64 = sources
        .iter()
        .filter_map(|path| SourcePlace::of(path).file.metadata().ok())
        .map(|metadata| metadata.len())
        .sum();
    if quiet || total < LONG || !std::io::stderr().is_terminal() {
        return job(&progress);
    }
    let bar = ProgressBar::new(total)
        .with_style(style("{bar:40} {percent:>3} %  {bytes} of {total_bytes}, {eta} left"));
    show(&bar, || progress.bytes(), || job(&progress))
}

/// Runs `job`, showing how many of `total` domains have been asked about.
#[cfg(feature = "dns")]
pub(crate) fn watch_questions<T>(
    total: u64,
    quiet: bool,
    job: impl FnOnce(&Progress, &AskProgress) -> Result<T>,
) -> Result<T> {
    let (progress, done) = (Arc::new(Progress::default()), AskProgress::default());
    let stop = Arc::clone(&progress);
    signals::watch(move || stop.stop())?;
    if quiet || !std::io::stderr().is_terminal() {
        return job(&progress, &done);
    }
    let bar = ProgressBar::new(total)
        .with_style(style("{bar:40} {percent:>3} %  {pos} of {len} domains asked about, {eta} left"));
    show(&bar, || done.done(), || job(&progress, &done))
}

/// Runs `job` while the bar shows how far it is.
fn show<T>(bar: &ProgressBar, position: impl Fn() -> u64 + Sync, job: impl FnOnce() -> T) -> T {
    let done = AtomicBool::new(false);
    std::thread::scope(|scope| {
        scope.spawn(|| {
            while !done.load(Ordering::Relaxed) {
                bar.set_position(position());
                std::thread::sleep(Duration::from_millis(80));
            }
        });
        let result = job();
        done.store(true, Ordering::Relaxed);
        bar.finish_and_clear();
        result
    })
}

fn style(template: &str) -> ProgressStyle {
    ProgressStyle::with_template(template).expect("a good template")
}
