//! A step ends with the run whose step it is: one that outlived a run that was killed would go on writing where the next run works.

use std::process::Command;

/// The variable by which a step knows the process that runs it.
const STEP_OF: &str = "YPOGRAM_STEP_OF";

/// Says to a step that this process runs it.
pub(crate) fn mark(step: &mut Command) -> &mut Command {
    step.env(STEP_OF, std::process::id().to_string())
}

/// Lets this process end when the one that runs it as a step is killed; on Linux, where the system can do so.
pub(crate) fn end_with_it() {
    #[cfg(target_os = "linux")]
    if let Some(run) = std::env::var(STEP_OF).ok().and_then(|run| run.parse::<i32>().ok()) {
        use rustix::process::{Signal, getppid, set_parent_process_death_signal};
        let _ = set_parent_process_death_signal(Some(Signal::TERM));
        // It may have been killed before that was asked for.
        if getppid().is_none_or(|parent| parent.as_raw_nonzero().get() != run) {
            std::process::exit(i32::from(crate::signals::TERMINATED));
        }
    }
}
