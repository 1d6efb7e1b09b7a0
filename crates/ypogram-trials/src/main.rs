//! `cargo run --release -p ypogram-trials -- short|long [TRIAL …]`: the campaign of faults. The last line has its figures.
#![forbid(unsafe_code)]

use std::process::ExitCode;
use std::time::Instant;

use ypogram_trials::campaign::{Outcome, Scale, disk, hostile, kill, memory, records, stop};

type Trial = fn(Scale) -> Outcome;

const TRIALS: [(&str, Trial); 6] = [
    ("records", records::run),
    ("kill", kill::run),
    ("disk", disk::run),
    ("stop", stop::run),
    ("hostile", hostile::run),
    ("memory", memory::run),
];

/// Faults that are printed of one trial.
const SHOWN: usize = 20;

fn main() -> ExitCode {
    let words: Vec<String> = std::env::args().skip(1).collect();
    let (scale, wanted) = match words.split_first() {
        Some((word, wanted)) if word == "short" => (Scale::Short, wanted),
        Some((word, wanted)) if word == "long" => (Scale::Long, wanted),
        _ => {
            let names: Vec<&str> = TRIALS.iter().map(|(name, _)| *name).collect();
            eprintln!("ypogram-trials short|long [TRIAL …]; the trials are {}", names.join(", "));
            return ExitCode::from(2);
        }
    };
    let (mut line, mut faults) = (Vec::new(), 0);
    for (name, trial) in
        TRIALS.iter().filter(|(name, _)| wanted.is_empty() || wanted.iter().any(|w| w == name))
    {
        let begun = Instant::now();
        let outcome = trial(scale);
        let figures: Vec<String> =
            outcome.figures.iter().map(|(what, count)| format!("{count} {what}")).collect();
        println!("{name}: {} in {} s", figures.join(", "), begun.elapsed().as_secs());
        outcome.left_out.iter().for_each(|why| println!("  not tried: {why}"));
        outcome.faults.iter().take(SHOWN).for_each(|fault| println!("  FAULT: {fault}"));
        if outcome.faults.len() > SHOWN {
            println!("  and {} faults more", outcome.faults.len() - SHOWN);
        }
        faults += outcome.faults.len();
        line.push(format!("{name} {}", figures.join(", ")));
    }
    println!("{} · {faults} faults", line.join(" · "));
    ExitCode::from(u8::from(faults > 0))
}
