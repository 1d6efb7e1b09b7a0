//! A table of a database whose addresses are to be unique by mailbox: which rows stand in the way of that, and the SQL that lets nobody
//! in twice from then on. Nothing of it is run here; the database is only read.

mod gathered;
mod options;
mod report;
mod script;
mod table;

use std::path::PathBuf;

use ypogram_core::Hasher;
use ypogram_io::{Output, Result, RowSpec, SqlDialect, Target};

use crate::duplicates::survivor::Survivor;
use crate::engine::progress::Progress;
use crate::engine::reading::Reading;
use crate::engine::side_table::SideTable;
use crate::judge::annotate::{Judging, Wanted};
use crate::judge::judge_all::judge_all;
use crate::plan::fields::{FieldChoice, FieldPlan};
use crate::plan::person::PersonFields;
use crate::sql::functions::SqlFunctions as _;
use crate::sql::key;
use gathered::{Gathered, Group};
pub use options::GuardOptions;
pub use report::{GuardReport, GuardRow};
use script::Script;
use table::GuardedTable;

/// Groups in the report.
const FIRST: usize = 8;

/// Finds the rows in the way, and writes the SQL.
///
/// # Errors
/// Where the database, table or column does not exist, the key column does, or an output cannot be written. Nothing is then published.
pub fn run(options: &GuardOptions, progress: &Progress) -> Result<GuardReport> {
    let table = GuardedTable::read(&options.database, &options.table, &options.column)?;
    let key_column = table.key_column(options.key_column.as_deref())?;
    let expression = key::expression(table.sql, &table.sql.name(&table.column), &options.policy);
    let gathered = gather(options, &table, &expression, progress)?;
    let mut report = GuardReport {
        table: table.table.clone(),
        column: table.column.clone(),
        key_column,
        rows: gathered.len() as u64,
        unusable: 0,
        groups: 0,
        going: 0,
        other_person: 0,
        not_comparable: 0,
        to_standard_form: 0,
        referring: table.referring.clone(),
        first: Vec::new(),
        sql: String::new(),
    };
    let groups = gathered.groups(options.survivor == Survivor::Last);
    for group in &groups {
        report.groups += 1;
        report.going += group.others.len() as u64;
        report.other_person += group.others.iter().filter(|(_, other_person)| *other_person).count() as u64;
        if report.first.len() < FIRST {
            report.first.push(rows_of(group, table.sql, &gathered).collect());
        }
    }
    let going: hashbrown::HashSet<usize> =
        groups.iter().flat_map(|group| group.others.iter().map(|(row, _)| *row)).collect();
    report.unusable = gathered.unusable().filter(|row| !going.contains(row)).count() as u64;
    let staying: Vec<&(usize, Option<String>)> =
        gathered.not_comparable.iter().filter(|(row, _)| !going.contains(row)).collect();
    report.not_comparable = staying.len() as u64;
    let mut script = Script::new(options, &table, &report);
    groups.iter().for_each(|group| script.delete(group, &gathered));
    if options.standard_form {
        for (row, standard) in &staying {
            if let Some(standard) = standard {
                script.update(*row, standard, &gathered);
                report.to_standard_form += 1;
            }
        }
    }
    let sql = script.finish(&expression, &report);
    let mut outputs = Vec::new();
    if let Some(target) = &options.rows {
        outputs.push(list(target, table.sql, &groups, &gathered)?);
    }
    match &options.target {
        Target::Nowhere => report.sql = sql,
        target => {
            let mut output = target.open()?;
            output.write(sql.as_bytes())?;
            outputs.push(output);
        }
    }
    Output::finish_all(outputs)?;
    Ok(report)
}

/// Reads all rows, with the key that each has and the one that the database makes of it.
fn gather(
    options: &GuardOptions,
    table: &GuardedTable,
    expression: &str,
    progress: &Progress,
) -> Result<Gathered> {
    let source = PathBuf::from(format!("{}#{}", options.database.display(), table.query(expression)));
    let mut reading = Reading::open(&[source], &options.open)?;
    let fields = FieldChoice { address: vec![table.column.clone()], ..FieldChoice::default() };
    let plan = FieldPlan::settle(&mut reading, &fields, &options.policy)?;
    let hasher = Hasher::with_key(options.hash_key);
    let judging = Judging { plan: &plan, policy: &options.policy, hasher };
    let scoring = match &options.survivor {
        Survivor::First | Survivor::Last => None,
        survivor => Some(survivor.settle(&plan, &mut reading)?),
    };
    let persons = PersonFields::settle(&options.persons, &plan, &reading)?;
    let wanted = Wanted {
        duplicates: true,
        scoring,
        persons: (!persons.is_empty()).then_some(persons),
        ..Wanted::default()
    };
    let mut gathered = Gathered::new(&plan, options, hasher)?;
    judge_all(&mut reading, judging, (&wanted, true), (options.threads, progress), |task, part| {
        (0..part.rows.len()).try_for_each(|nth| gathered.add(part, nth, &task.chunk, &plan))
    })?;
    Ok(gathered)
}

/// The rows of a group, the one that stays first.
fn rows_of<'g>(
    group: &'g Group,
    sql: SqlDialect,
    gathered: &'g Gathered,
) -> impl Iterator<Item = GuardRow> + 'g {
    let all = std::iter::once((group.stays, true, false));
    let all = all.chain(group.others.iter().map(|(row, other_person)| (*row, false, *other_person)));
    all.map(move |(row, stays, other_person)| {
        let (literals, value) = gathered.row(row);
        let ids: Vec<String> = literals.split('\u{1F}').map(|id| sql.id_shown(id)).collect();
        GuardRow { row: ids.join(", "), value: sql.unquoted(value), stays, other_person }
    })
}

/// Lists every row in the way, group by group.
fn list(target: &Target, sql: SqlDialect, groups: &[Group], gathered: &Gathered) -> Result<Output> {
    let columns = ["group", "row", "address", "stays"];
    let mut table = SideTable::open(target, &columns, &["group"], &RowSpec::default())?;
    for (number, group) in groups.iter().enumerate() {
        for row in rows_of(group, sql, gathered) {
            let stays = match (row.stays, row.other_person) {
                (true, _) => "yes",
                (false, true) => "other-person",
                (false, false) => "no",
            };
            table.add([&*(number + 1).to_string(), &row.row, &row.value, stays])?;
        }
    }
    table.finish()
}
