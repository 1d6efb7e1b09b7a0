//! Finds the addresses in a text: `cargo run -p ypogram-core --example find_in_text < notes.txt`.

use std::io::{BufRead, Result, Write};

use ypogram_core::{Policy, text};

fn main() -> Result<()> {
    run(std::io::stdin().lock(), std::io::stdout().lock())
}

pub(crate) fn run(mut input: impl BufRead, mut output: impl Write) -> Result<()> {
    let mut all = Vec::new();
    input.read_to_end(&mut all)?;
    let mut found = Vec::new();
    text::find(&all, &Policy::default(), |hit| found.push(hit.text.into_owned()));
    found.iter().try_for_each(|address| writeln!(output, "{}", String::from_utf8_lossy(address)))
}
