//! `ypogram man`: the help of every command as pages of the manual.

use std::path::Path;
use std::process::ExitCode;

use clap::{Command, CommandFactory as _};
use clap_mangen::Man;
use ypogram_io::{Error, IfThere, Output, Result, Target};

use crate::arguments::short_help::in_order;
use crate::arguments::{Arguments, ManArguments};
use crate::render::words::counted;
use crate::{exit, render};

pub(crate) fn run(arguments: &ManArguments) -> Result<ExitCode> {
    let mut all = in_order(Arguments::command());
    // So that each command knows how it is typed.
    all.build();
    let pages = pages(all, "").into_iter().map(page).collect::<Result<Vec<_>>>()?;
    let folder = &arguments.output;
    if folder == Path::new("-") {
        pages.iter().try_for_each(|(_, page)| render::print(&String::from_utf8_lossy(page)))?;
        return Ok(ExitCode::from(exit::DONE));
    }
    std::fs::create_dir_all(folder).map_err(|error| Error::writing(folder, &error))?;
    let mut outputs = Vec::new();
    for (name, page) in pages {
        let path = folder.join(format!("{name}.1"));
        let mut output = Target::File { path, if_there: IfThere::of_force(arguments.force) }.open()?;
        output.write(&page)?;
        outputs.push(output);
    }
    let count = outputs.len() as u64;
    Output::finish_all(outputs)?;
    render::print(&format!("{} written to {}\n", counted(count, "page is", "pages are"), folder.display()))?;
    Ok(ExitCode::from(exit::DONE))
}

/// The name of a page and what stands in it.
fn page((name, command): (String, Command)) -> Result<(String, Vec<u8>)> {
    let mut page = Vec::new();
    let man = Man::new(command.display_name(&name))
        .title(name.to_uppercase())
        .source(concat!("Ypogram ", env!("CARGO_PKG_VERSION")));
    man.render(&mut page).map_err(|error| Error::writing(Path::new(&name), &error))?;
    Ok((name, page))
}

/// The commands by the names of their pages, as in `ypogram-rules-export`.
fn pages(command: Command, above: &str) -> Vec<(String, Command)> {
    let name = format!("{above}{}", command.get_name());
    let below = command.get_subcommands().filter(|below| below.get_name() != "help").cloned();
    let below: Vec<_> = below.flat_map(|below| pages(below, &format!("{name}-"))).collect();
    std::iter::once((name, command.disable_help_subcommand(true))).chain(below).collect()
}
