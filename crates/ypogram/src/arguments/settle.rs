//! What `settle` takes.

use std::path::PathBuf;

use clap::{Args, ValueEnum};
use ypogram_core::Confidence;

/// Take the decisions made in a review file, and sort all records anew, as if each decided address had stood so at the start
#[derive(Debug, Args)]
#[command(after_help = "\
A decision stands in the column yp_decision of review.csv or rejected.csv: keep (it is right as it is), take (what is \
suggested is right), drop, or another address. Nothing else of the file is taken, so that it may have been opened and \
saved in a spreadsheet program. What is not decided stays in review.

Examples:
  ypogram settle members-cleaned                          the decisions in its own review file
  ypogram settle members-cleaned returned-review.xlsx     a review file that came back
  ypogram settle --take sure members-cleaned              every suggestion that is sure
  ypogram settle members-cleaned moved.csv                the new addresses that bounces has found
  ypogram settle --ask members-cleaned                    one question after the other")]
pub(crate) struct SettleArguments {
    /// The folder that clean has written
    #[arg(value_name = "FOLDER")]
    pub(crate) folder: PathBuf,

    /// The review file that came back, in whatever format, or the moved mailboxes that bounces has written [default: the review files in the folder]
    #[arg(value_name = "RETURNED-FILE", conflicts_with_all = ["ask", "take"])]
    pub(crate) returned: Option<PathBuf>,

    /// Ask about each record for review on the terminal, once for all with the same question; can be left and taken up again
    #[arg(long, conflicts_with = "take")]
    pub(crate) ask: bool,

    /// Take every suggestion that is at least so sure, for rejected records too
    #[arg(long, value_name = "CONFIDENCE")]
    pub(crate) take: Option<ConfidenceArgument>,

    /// Replace a review file in the folder that was changed, even where its decisions are not taken
    #[arg(long)]
    pub(crate) discard_decisions: bool,

    /// Print the summary as JSON
    #[arg(long)]
    pub(crate) json: bool,

    /// Print no summary
    #[arg(short, long)]
    pub(crate) quiet: bool,

    /// Print the whole summary, however long; without it, 40 lines of the width of the terminal
    #[arg(long)]
    pub(crate) full: bool,

    /// Exit with 1 where something is left to decide: records for review (review)
    #[arg(long, value_name = "TROUBLE", value_parser = ["review"])]
    pub(crate) fail_on: Option<String>,

    /// Print one figure of the summary and nothing else, such as kept or decisions.taken
    #[arg(long, value_name = "NAME", conflicts_with_all = ["json", "quiet", "full"])]
    pub(crate) figure: Option<String>,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub(crate) enum ConfidenceArgument {
    /// Hardly anything else can have been meant
    Sure,
    /// There may be other readings; includes sure ones
    Likely,
}

impl ConfidenceArgument {
    /// The word for messages.
    pub(crate) fn word(self) -> &'static str {
        Confidence::from(self).word()
    }
}

impl From<ConfidenceArgument> for Confidence {
    fn from(argument: ConfidenceArgument) -> Self {
        match argument {
            ConfidenceArgument::Sure => Confidence::Sure,
            ConfidenceArgument::Likely => Confidence::Likely,
        }
    }
}
