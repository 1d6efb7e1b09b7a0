//! An output is never an input and never another output, whatever it is called.

use std::path::{Path, PathBuf};

use ypogram_io::{Error, IfThere, Place, Result, SourcePlace, Target};

use crate::settings::Settings;

/// What a command reads besides its sources: the rulebook and the lists.
fn read_besides(settings: &Settings) -> impl Iterator<Item = &Path> {
    let lists = settings.list_specs.iter().filter_map(|spec| spec.file.as_deref());
    settings.rulebook_file.as_deref().into_iter().chain(lists)
}

/// Refuses `targets` of which one is read, or two are one file.
///
/// # Errors
/// Where that is so.
pub(crate) fn refuse(sources: &[PathBuf], settings: &Settings, targets: &[&Target]) -> Result<()> {
    let inputs: Vec<&Path> = sources.iter().map(PathBuf::as_path).chain(read_besides(settings)).collect();
    refuse_read(&inputs, targets)
}

/// The same of a command that reads `inputs` alone.
///
/// # Errors
/// As above.
pub(crate) fn refuse_read(inputs: &[&Path], targets: &[&Target]) -> Result<()> {
    let mut places: Vec<(Place, Option<String>)> = Vec::new();
    // What is not replaced may be in a database that a query reads.
    let replaces = |target: &Target| !matches!(target, Target::File { if_there: IfThere::Refuse, .. });
    for target in targets {
        let (place, shown) = match target {
            Target::Nowhere => continue,
            Target::Standard => {
                let place = Place::of_standard_output().unwrap_or(Place::Path("-".into()));
                ((place, None), "standard output".to_owned())
            }
            Target::File { path, .. } => {
                refuse_within(path, inputs)?;
                let SourcePlace { file, part } = SourcePlace::of(path);
                ((Place::of(&file), part), path.display().to_string())
            }
        };
        if inputs.iter().any(|input| *input != Path::new("-") && is_of(input, &place, replaces(target))) {
            return Err(is_read(&shown));
        }
        if places.contains(&place) {
            return Err(Error::unusable(
                format!("{shown} is named for two outputs"),
                "give each a file of its own",
            ));
        }
        places.push(place);
    }
    Ok(())
}

/// Whether `input` is the output at that place; another table of its database is not.
fn is_of(input: &Path, (output, table): &(Place, Option<String>), replaces: bool) -> bool {
    let SourcePlace { file, part } = SourcePlace::of(input);
    // A query may read any table that is there.
    let is_other = |table: &String, part: &String| match SourcePlace::is_query(part) {
        true => !replaces,
        false => !table.eq_ignore_ascii_case(part),
    };
    let is_other_table = table.as_ref().zip(part.as_ref()).is_some_and(|(table, part)| is_other(table, part));
    Place::of(&file) == *output && !is_other_table
}

/// Refuses a folder for outputs of the names `names` where one of them is read.
///
/// # Errors
/// Where that is so.
pub(crate) fn refuse_folder(
    sources: &[PathBuf],
    settings: &Settings,
    folder: &Path,
    names: impl Iterator<Item = String>,
) -> Result<()> {
    let outputs: Vec<(Place, PathBuf)> = names
        .map(|name| folder.join(name))
        .filter(|path| path.exists())
        .map(|path| (Place::of(&path), path))
        .collect();
    for input in sources.iter().map(PathBuf::as_path).chain(read_besides(settings)) {
        if let Some((_, path)) = outputs.iter().find(|(place, _)| *place == Place::of(input)) {
            return Err(is_read(&path.display().to_string()));
        }
    }
    Ok(())
}

/// An output that is there already is among what is read where it stands in a folder that is.
fn refuse_within(output: &Path, inputs: &[&Path]) -> Result<()> {
    let Ok(resolved) = output.canonicalize() else { return Ok(()) };
    let holds = |input: &&&Path| {
        input.is_dir() && input.canonicalize().is_ok_and(|folder| resolved.starts_with(folder))
    };
    match inputs.iter().find(holds) {
        Some(_) if output.is_file() => Err(is_read(&output.display().to_string())),
        _ => Ok(()),
    }
}

fn is_read(output: &str) -> Error {
    Error::unusable(
        format!("{output} is read, and would be written over"),
        "name another file for the output",
    )
}
