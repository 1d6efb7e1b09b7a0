//! What `links` takes.

use clap::{Args, ValueEnum};
use ypogram_io::GraphFormat;

use super::{JudgingArguments, MachineArguments, OutputArguments, PageArguments, SourceArguments};

/// Show who shares what: local parts, domains and other fields of the addresses, as a graph
#[derive(Debug, Args)]
#[command(after_help = "\
Examples:
  ypogram links members.csv                                firms, local parts at several domains
  ypogram links members.csv --by phone                     households too, by telephone
  ypogram links members.csv --behind quarryfarm.example    who is behind one of them
  ypogram links members.csv --by phone --html links.html   a picture to send around
  ypogram links members.csv --by phone -o links.graphml    the graph, for other programs")]
#[command(mut_arg("output", |file| file.help(
    "File for the graph: .graphml, .dot, or a table such as links.csv, which becomes links-nodes.csv and links-edges.csv; `-` is standard \
     output [default: what is largest is shown]"
)))]
#[command(mut_arg("columns", |columns| columns.hide(true)))]
#[command(mut_arg("sort_by", |columns| columns.hide(true)))]
pub(crate) struct LinksArguments {
    #[command(flatten)]
    pub(crate) sources: SourceArguments,

    #[command(flatten)]
    pub(crate) judging: JudgingArguments,

    /// A further field whose values addresses share, such as telephone numbers; can be repeated
    #[arg(long, value_name = "FIELD", help_heading = "Links")]
    pub(crate) by: Vec<String>,

    /// Only the addresses behind this address, local part, domain or value, and those that share another with them; exit code 1 where nobody has it
    #[arg(long, value_name = "VALUE", help_heading = "Links: a part of them")]
    pub(crate) behind: Option<String>,

    #[command(flatten)]
    pub(crate) output: OutputArguments,

    /// The format of the graph on standard output
    #[arg(long, value_name = "FORMAT", default_value = "graphml", help_heading = "Output")]
    pub(crate) to: GraphFormatArgument,

    #[command(flatten)]
    pub(crate) page: PageArguments,

    #[command(flatten)]
    pub(crate) machine: MachineArguments,
}

/// What a graph is written in.
#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub(crate) enum GraphFormatArgument {
    /// GraphML
    Graphml,
    /// The language of Graphviz
    Dot,
}

impl From<GraphFormatArgument> for GraphFormat {
    fn from(argument: GraphFormatArgument) -> Self {
        match argument {
            GraphFormatArgument::Graphml => GraphFormat::GraphMl,
            GraphFormatArgument::Dot => GraphFormat::Dot,
        }
    }
}
