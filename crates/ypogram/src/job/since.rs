//! `run --since`: the steps of a job that clean learn against which folder of an earlier run they are held.

use std::path::Path;

use ypogram_io::{Error, Place, Result};

use crate::job::step::Step;

/// The account of `clean` in its folder.
const RECEIPT: &str = "receipt.json";

/// Gives the steps that clean, and say nothing else, the folder that an earlier run wrote: `folder` itself, or the one of the step in
/// the folder of an earlier run of the job. Where that is `home`, the one that is being replaced, there may be no earlier run.
///
/// # Errors
/// Where it is neither, or no step can write down what changed.
pub(crate) fn hold_against(steps: &mut [Step], (job, home): (&str, &Path), folder: &Path) -> Result<()> {
    let refused =
        |what: &str, hint: &str| Err(Error::unusable(format!("--since {}: {what}", folder.display()), hint));
    let from =
        std::path::absolute(folder).map_err(|error| Error::reading(&folder.display().to_string(), &error))?;
    let says_itself = |step: &Step| step.options.iter().any(|option| option.starts_with("--since="));
    let mut cleaning: Vec<&mut Step> = steps
        .iter_mut()
        .filter(|step| step.command == "clean" && step.is_published && !says_itself(step))
        .collect();
    if cleaning.is_empty() {
        return refused(
            &format!("no step of the job ‘{job}’ can write changes.csv"),
            "a step that cleans and has an output writes it, unless it says since itself",
        );
    }
    if from.join(RECEIPT).is_file() {
        return match &mut cleaning[..] {
            [only] => {
                only.since = Some(from);
                Ok(())
            }
            _ => refused(
                &format!("several steps of the job ‘{job}’ clean"),
                "write since = \"…\" into the step that is meant, or give the folder of an earlier run of the job",
            ),
        };
    }
    let may_be_first = Place::of(&from) == Place::of(home);
    if !may_be_first && !from.join(format!("{job}.{RECEIPT}")).is_file() {
        return refused(
            &format!("there is neither {RECEIPT} nor {job}.{RECEIPT} in it"),
            "give a folder that ypogram clean or ypogram run has written",
        );
    }
    for step in &mut cleaning {
        let before =
            step.main.iter().map(|main| from.join(main)).find(|before| before.join(RECEIPT).is_file());
        step.since = before;
    }
    match cleaning.iter().any(|step| step.since.is_some()) {
        _ if may_be_first => Ok(()),
        true => Ok(()),
        false => refused("the folders that its steps wrote are not there", "give the folder of one of them"),
    }
}
