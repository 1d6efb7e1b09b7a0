//! Judges the lines of standard input, one address each: `cargo run -p ypogram-core --example judge_lines < list.txt`.

use std::io::{BufRead, Result, Write};

use ypogram_core::{Policy, examine, suggest};

fn main() -> Result<()> {
    run(std::io::stdin().lock(), std::io::stdout().lock())
}

pub(crate) fn run(input: impl BufRead, mut output: impl Write) -> Result<()> {
    let policy = Policy::default();
    for line in input.lines() {
        let line = line?;
        let examined = examine(line.as_bytes(), &policy);
        write!(output, "{line}\t{}", examined.verdict.word())?;
        for finding in &examined.findings {
            write!(output, "\t{}: {}", finding.code.name(), finding.message)?;
        }
        if let Some(suggestion) = suggest(line.as_bytes(), examined.codes, &policy) {
            write!(output, "\tperhaps {}", suggestion.address)?;
        }
        writeln!(output)?;
    }
    Ok(())
}
