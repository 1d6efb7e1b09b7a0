//! Faults on purpose, against the built program: random files held against an independent reader, kills, disks that are full, many runs at
//! once, hostile input.
//!
//! `cargo run --release -p ypogram-trials -- short` is the campaign as CI runs it, `long` as it runs before a release; its last line has the
//! figures, which `docs/reliability.md` keeps. `cargo test -p ypogram-trials` kills runs at single system calls and lets several write into one
//! place; `YPOGRAM_FAULT_CASES=2000` tries so many cases of each. A case that fails names its number, and the same number is the same
//! case again.
#![forbid(unsafe_code)]

pub mod campaign;
pub mod draw;
pub mod program;

pub use draw::Draw;
pub use program::{cases, files, program, run, said};
