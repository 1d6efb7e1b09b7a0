//! `ypogram demo`: the made-up data of the Fernhollow Observatory, and the full example on it.

use std::ffi::OsString;
use std::fmt::Write as _;
use std::path::Path;
use std::process::ExitCode;

use clap::{CommandFactory as _, FromArgMatches as _};
use ypogram_io::{Error, OutputFile, Result};

use crate::arguments::{Arguments, Command, DemoArguments};
use crate::call::Call;
use crate::commands::clean;
use crate::{exit, render};

/// The demo's files, compiled in, so that the program alone can show itself.
const FILES: [(&str, &[u8]); 13] = [
    ("members.csv", include_bytes!("../../demo/members.csv")),
    ("partners.csv", include_bytes!("../../demo/partners.csv")),
    ("loans.csv", include_bytes!("../../demo/loans.csv")),
    ("loans.toml", include_bytes!("../../demo/loans.toml")),
    ("equipment.xlsx", include_bytes!("../../demo/equipment.xlsx")),
    ("open-nights.csv", include_bytes!("../../demo/open-nights.csv")),
    ("volunteers.vcf", include_bytes!("../../demo/volunteers.vcf")),
    ("withdrawn.txt", include_bytes!("../../demo/withdrawn.txt")),
    ("sign-up-sheet.txt", include_bytes!("../../demo/sign-up-sheet.txt")),
    ("roster.csv", include_bytes!("../../demo/roster.csv")),
    ("returned.mbox", include_bytes!("../../demo/returned.mbox")),
    ("dns.csv", include_bytes!("../../demo/dns.csv")),
    ("ypogram.toml", include_bytes!("../../demo/ypogram.toml")),
];

pub(crate) fn run(arguments: &DemoArguments) -> Result<ExitCode> {
    let folder = &arguments.output;
    write_files(folder)?;
    let shown = folder.display();
    let mut told = String::new();
    let _ = writeln!(
        told,
        "{}",
        render::style::title("The Fernhollow Observatory's membership list, as nobody kept it clean")
    );
    let _ = writeln!(told, "The files are in {shown}/. What follows is the answer to:\n");
    let _ = writeln!(told, "  cd {shown}");
    let _ = writeln!(told, "  ypogram clean members.csv --field email --also notes -o cleaned\n");
    render::print(&told)?;
    let place = |name: &str| folder.join(name).display().to_string();
    let call = [
        "ypogram",
        "clean",
        &place("members.csv"),
        "--field",
        "email",
        "--also",
        "notes",
        "--rules",
        &place("ypogram.toml"),
        "-o",
        &place("cleaned"),
        "--force",
    ]
    .map(str::to_owned);
    let words: Vec<OsString> = call[1..].iter().map(OsString::from).collect();
    let matches = Arguments::command().get_matches_from(call);
    let arguments = Arguments::from_arg_matches(&matches).expect("the call is ours");
    let Command::Clean(clean_arguments) = arguments.command else { unreachable!("the call is ours") };
    clean::run(&clean_arguments, &Call::of(matches, words))?;
    render::print(&next_steps(folder))?;
    Ok(ExitCode::from(exit::DONE))
}

fn next_steps(folder: &Path) -> String {
    let mut out = String::new();
    let _ = writeln!(out, "\n{}", render::style::title("Go on from here"));
    let _ = writeln!(out, "  cd {}", folder.display());
    let steps = [
        ("less cleaned/review.csv", "the records that somebody has to decide, with suggestions"),
        (
            "ypogram settle --take sure cleaned",
            "every suggestion that is sure is taken, and all is sorted anew",
        ),
        ("ypogram settle --ask cleaned", "one question after the other; can be left and taken up again"),
        (
            "ypogram run monthly --plan",
            "the job of the rulebook in words; run it with --force in place of --plan",
        ),
        ("ypogram survey members.csv", "the list before it was cleaned: what is in each field, and where"),
        (
            "ypogram check equipment.xlsx -o checked.xlsx --force",
            "a workbook in, a workbook out: the verdicts are coloured",
        ),
        ("ypogram survey open-nights.csv", "an old export with semicolons, in Windows-1252"),
        ("ypogram extract volunteers.vcf --unique --to plain", "an address book: each address once"),
        (
            "ypogram clean members.csv -o cleaned.xlsx --force",
            "one workbook with a sheet for each outcome, and a chart",
        ),
        (
            "ypogram bounces returned.mbox",
            "what came back after a mailing: who is gone, moved, or wants to be left alone",
        ),
        ("ypogram links members.csv --by phone", "families and firms: who shares a telephone or a domain"),
        (
            "ypogram domains members.csv --dns-snapshot dns.csv",
            "which domains exist and take mail, by answers that were kept: no network is needed",
        ),
        ("ypogram extract sign-up-sheet.txt --obfuscated", "the typed-up sheet: addresses out of free text"),
        (
            "ypogram split members.csv --parts first-name,last-name --first 10",
            "names out of addresses: a trial that writes nothing",
        ),
        ("ypogram split loans.csv --cut 'loan at /: 2 as no' --first 10", "the loan numbers cut"),
        (
            "ypogram lists test bea@mail.marshmill.example",
            "which entry of which list decides about an address",
        ),
        ("ypogram explain 'night.owl@gmial,com'", "what is wrong with an address, and what was meant"),
        ("ypogram clean your-own.csv", "your own file; the input is never changed"),
    ];
    let width = steps.iter().map(|(command, _)| command.chars().count()).max().unwrap_or(0);
    for (command, what) in steps {
        let _ = writeln!(out, "  {command:<width$}  {}", render::style::dim(what));
    }
    out
}

/// Writes the files that are not there yet; one that somebody changed is left as it is.
fn write_files(folder: &Path) -> Result<()> {
    std::fs::create_dir_all(folder).map_err(|error| Error::writing(folder, &error))?;
    for (name, content) in FILES {
        let path = folder.join(name);
        if path.exists() {
            continue;
        }
        let mut file = OutputFile::create(&path)?;
        file.write(content)?;
        file.publish()?;
    }
    Ok(())
}
