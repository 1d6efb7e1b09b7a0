//! The rule for entries, written out for the places where entries are made.

mod coverage;
mod html;
mod json_schema;
mod judged;
mod place;
mod regex;
#[cfg_attr(not(feature = "sqlite"), path = "no_sql.rs")]
mod sql;
mod values;
mod xlsx;

use std::path::PathBuf;

use serde::Serialize;
use ypogram_core::entry_rule::{EntryMatcher, EntryRule, Flavour};
use ypogram_core::shown;
use ypogram_io::{EntryRefusal, IfThere, Output, Result, Target};

pub use coverage::{Coverage, Passing};
pub use judged::EntryJudge;
pub use place::{ColumnOfEntries, EntryPlace};
pub use values::values;

/// What is to be written.
#[derive(Clone, Debug)]
pub struct ExportOptions {
    /// The place.
    pub place: EntryPlace,
    /// How entries are judged.
    pub judge: EntryJudge,
    /// What a place says where it refuses an entry, and has no sentence for each finding.
    pub refusal: EntryRefusal,
    /// The cell that the formula of a sheet is about.
    pub cell: String,
    /// Where the rule goes.
    pub target: Target,
    /// Where values to try it with go.
    pub values: Option<Target>,
    /// How many values there are about.
    pub count: usize,
    /// The rulebook as it is named.
    pub rulebook: Option<PathBuf>,
    /// What the hash of the rule is taken of: everything that it follows from.
    pub resolved: serde_json::Value,
    /// The program's version.
    pub version: String,
}

/// What was written.
#[derive(Clone, Debug, Serialize)]
pub struct ExportReport {
    /// The word for the place.
    pub place: &'static str,
    /// The rulebook, where there is one.
    pub rulebook: Option<PathBuf>,
    /// The hash of everything that the rule follows from.
    pub rulebook_hash: String,
    /// What the rule covers.
    #[serde(flatten)]
    pub coverage: Coverage,
    /// The findings that the attributes of an input do not see, and its script does.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub script_alone: Vec<String>,
    /// The formula of a sheet, where that is the place.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub formula: Option<String>,
    /// Bytes of the rule.
    pub bytes: usize,
    /// Values to try it with that pass, and that fail.
    pub values: Option<[usize; 2]>,
    /// The rule itself.
    #[serde(skip)]
    pub text: String,
}

/// Writes the rule for its place, and values to try it with.
///
/// # Errors
/// Where an output exists and is not to be replaced, or cannot be written. Nothing is then published.
pub fn run(options: &ExportOptions) -> Result<ExportReport> {
    let rule = options.judge.rule();
    let (mut report, without) = report(options, &rule)?;
    let mut outputs = Vec::new();
    let remarks = options.remarks(&report);
    match (&options.place, &options.target) {
        (EntryPlace::Xlsx, Target::File { path, if_there }) => {
            let replace = *if_there == IfThere::Replace;
            let file = xlsx::write(&rule, path, replace, &options.refusal, &remarks)?;
            outputs.push(Output::File(Box::new(file), None));
        }
        (_, target) => {
            let mut output = target.open()?;
            output.write(report.text.as_bytes())?;
            outputs.push(output);
        }
    }
    if let Some(target) = &options.values {
        let (text, counts) = test_values(&rule, options, &without);
        report.values = Some(counts);
        let mut output = target.open()?;
        output.write(text.as_bytes())?;
        outputs.push(output);
    }
    Output::finish_all(outputs)?;
    Ok(report)
}

impl ExportOptions {
    /// The lines that stand before the rule.
    fn remarks(&self, report: &ExportReport) -> Vec<String> {
        let from = match &self.rulebook {
            Some(rulebook) => format!("the rulebook {}", rulebook.display()),
            None => "the defaults".to_owned(),
        };
        let mut lines = vec![
            format!("Email addresses as they are typed, by {from} (hash {}).", report.rulebook_hash),
            format!("Written by Ypogram {} with rules export --for {}.", self.version, report.place),
        ];
        lines.extend(report.coverage.lines());
        if !report.script_alone.is_empty() {
            lines.push("Without the script the attributes let pass:".to_owned());
            lines.push(format!("  {}", report.script_alone.join(", ")));
        }
        // A line break in a name would end a remark.
        lines.iter().map(|line| shown(line.as_bytes()).to_string()).collect()
    }
}

/// The rule for its place, with what it covers, and the names of the conditions that it does not hold.
fn report(options: &ExportOptions, rule: &EntryRule) -> Result<(ExportReport, Vec<String>)> {
    let policy = options.judge.policy();
    let hash = blake3::hash(options.resolved.to_string().as_bytes()).to_hex().to_string();
    let mut report = ExportReport {
        place: options.place.word(),
        rulebook: options.rulebook.clone(),
        rulebook_hash: hash,
        coverage: Coverage::default(),
        script_alone: Vec::new(),
        formula: None,
        bytes: 0,
        values: None,
        text: String::new(),
    };
    let written = match &options.place {
        EntryPlace::Html => {
            let (without, of_attributes) = html::without(rule);
            report.script_alone = of_attributes;
            Written { text: String::new(), without, remark: "" }
        }
        EntryPlace::JsonSchema => Written { without: json_schema::without(rule), ..Written::default() },
        EntryPlace::Xlsx => {
            let formula = xlsx::formula(rule, &options.cell);
            let text = formula.clone() + "\n";
            report.formula = Some(formula);
            Written { without: xlsx::without(rule), remark: "# ", text }
        }
        EntryPlace::Regex(flavour) => {
            let (text, without) = regex::write(rule, *flavour);
            Written { text, without, remark: "# " }
        }
        EntryPlace::Sql(column) => {
            let (text, without) = sql::write(rule, column, policy)?;
            Written { text, without, remark: "-- " }
        }
    };
    report.coverage = Coverage::of(rule, &written.without, options.place.refuses_too(), &options.judge);
    if options.place == EntryPlace::Regex(Flavour::Pcre) && !written.without.is_empty() {
        report.coverage.advice.push(format!(
            "PCRE takes no expression that is longer than 64 KiB once compiled, so that {} had to be left out; --flavour ecmascript has it",
            written.without.join(", ")
        ));
    }
    let remarks = options.remarks(&report);
    report.text = match &options.place {
        EntryPlace::Html => html::write(rule, &options.refusal.message, &remarks),
        EntryPlace::JsonSchema => json_schema::write(rule, &remarks.join("\n")),
        _ => {
            let remarks = remarks.iter().map(|line| format!("{}{line}\n", written.remark));
            remarks.collect::<String>() + &written.text
        }
    };
    report.bytes = report.text.len();
    Ok((report, written.without))
}

/// A rule before its remarks are known.
#[derive(Default)]
struct Written {
    text: String,
    /// The names of the conditions that it does not hold.
    without: Vec<String>,
    /// What its remarks begin with.
    remark: &'static str,
}

/// Values that pass and that fail, a line each, and how many of them there are. Those with which the place does, as it says, other than the program
/// are left out.
fn test_values(rule: &EntryRule, options: &ExportOptions, without: &[String]) -> (String, [usize; 2]) {
    let matcher = EntryMatcher::without(rule, without);
    let (mut text, mut counts) = (String::new(), [0, 0]);
    let too = options.place.refuses_too();
    for value in values(rule, &options.judge, options.count) {
        let fails = options.judge.refuses(&value).is_some();
        let differs = matcher.refused_by(&value).is_some() != fails;
        if differs || too.iter().any(|refuses| refuses.may_be(&value)) {
            continue;
        }
        counts[usize::from(fails)] += 1;
        let json = serde_json::to_string(&value).expect("plain data");
        text.push_str(&format!("{}\t{json}\n", if fails { "fail" } else { "pass" }));
    }
    (text, counts)
}

#[cfg(test)]
mod tests {
    use ypogram_core::house_format::{Fold, HouseFormat};
    use ypogram_core::providers::Certainty;
    use ypogram_core::{Code, Grammar, Pattern, Policy, Severity};

    use super::*;
    use crate::judge::selection::Selection;
    use crate::plan::house::HouseFormats;
    use crate::plan::house_pattern::{HousePattern, PatternOf};

    /// Judges of every kind of rulebook, by name.
    fn judges() -> Vec<(&'static str, EntryJudge)> {
        let trusting = || {
            let mut policy = Policy::default();
            policy.trust_name("fernhollow.example").unwrap();
            policy
        };
        let plain = |policy: &Policy| {
            EntryJudge::new(policy, Selection::default(), HouseFormats::default(), Vec::new())
        };
        let without = ["disposable", "isp", "role-account"].map(str::to_owned);
        let selection = Selection::read(&[], &without, Certainty::Known).unwrap();
        let mut weighty = trusting();
        for code in [
            Code::FreeProvider,
            Code::Disposable,
            Code::RoleAccount,
            Code::NoReply,
            Code::QuotedLocalPart,
            Code::NonAsciiLocal,
        ] {
            weighty.set_severity(code, Severity::Reject).unwrap();
        }
        weighty.max_length = Some(60);
        let mut lenient = trusting();
        for code in [Code::UnknownTld, Code::AddressLiteral, Code::Placeholder] {
            lenient.set_severity(code, Severity::Note).unwrap();
        }
        let of_grammar = |grammar: Grammar| {
            let mut policy = trusting();
            policy.grammar = grammar;
            policy
        };
        let format = |text: &str| HouseFormat::new(text, Fold::German).unwrap();
        let formats = vec![
            format("given \".\" family \"@fernhollow.example\""),
            format("family \"_\" given(1) number? \"@quarryfarm.org\""),
        ];
        let house = HouseFormats { formats, ..HouseFormats::default() };
        let everyone = HouseFormats { everyone: true, ..house.clone() };
        let pattern = |name: &str, written: &str| {
            let pattern = Pattern::new(name, written, true, name == "any-case").unwrap();
            HousePattern { pattern, of: PatternOf::AsItStands }
        };
        let patterns = vec![pattern("short", r"[a-z]{1,3}@.*"), pattern("any-case", r"\w+\.\w+@[^@]*\.org")];
        vec![
            ("plain", plain(&trusting())),
            ("weighty", plain(&weighty)),
            ("lenient", plain(&lenient)),
            ("html", plain(&of_grammar(Grammar::Html))),
            ("header", plain(&of_grammar(Grammar::Header))),
            ("classes", EntryJudge::new(&trusting(), selection, HouseFormats::default(), Vec::new())),
            ("house", EntryJudge::new(&trusting(), Selection::default(), house, Vec::new())),
            ("everyone", EntryJudge::new(&trusting(), Selection::default(), everyone, Vec::new())),
            (
                "patterns",
                EntryJudge::new(&trusting(), Selection::default(), HouseFormats::default(), patterns),
            ),
        ]
    }

    /// Whether it is listed that the rule differs from the program, which refuses `value` for these findings.
    fn is_listed(coverage: &Coverage, rule: &EntryRule, value: &str, refused: Option<&[Code]>) -> bool {
        let is_passing = |code: &Code| coverage.lets_pass.iter().any(|passing| passing.code == code.name());
        match refused {
            Some(codes) => !codes.is_empty() && codes.iter().all(is_passing),
            None => rule.refuses_too().any(|refuses| refuses.may_be(value)),
        }
    }

    /// On thousands of values of every kind the rule does what the program does, but for what it says of itself.
    #[test]
    fn the_rule_refuses_what_the_program_refuses() {
        for (name, judge) in judges() {
            let rule = judge.rule();
            let (matcher, coverage) = (EntryMatcher::new(&rule), Coverage::of(&rule, &[], &[], &judge));
            let (mut same, mut different) = ([0, 0], 0);
            for value in values(&rule, &judge, 5_000) {
                let (refused, by_rule) = (judge.refuses(&value), matcher.refused_by(&value));
                match (&refused, by_rule) {
                    (Some(_), Some(_)) => same[0] += 1,
                    (None, None) => same[1] += 1,
                    _ => {
                        let is_listed = is_listed(&coverage, &rule, &value, refused.as_deref());
                        assert!(is_listed, "{name}: {value:?}: {refused:?}, {by_rule:?}");
                        different += 1;
                    }
                }
            }
            assert!(same[0] > 1_000 && same[1] > 0 && different < 800, "{name}: {same:?} {different}");
        }
    }
}
