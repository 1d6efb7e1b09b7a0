//! What came of a job, as a page: its steps, then what each step that cleans has to tell.

use ypogram_core::shown;

use crate::job::{Step, StepReport};
use crate::render::page::parts::{Count, Page, Part, Section, Sort, Table};
use crate::render::run::{answer, ends, records};

/// The page of a job; `cleaned` are those of its steps that clean, by the name of the step.
pub(crate) fn job(job: &str, steps: &[Step], reports: &[StepReport], cleaned: Vec<(String, Page)>) -> Page {
    let mut table = Table::of(&[
        ("step", Sort::Name),
        ("does", Sort::Name),
        ("records read", Sort::Number),
        ("where they ended", Sort::Text),
        ("published", Sort::Text),
    ]);
    for (step, report) in steps.iter().zip(reports) {
        let read = records(&report.summary).map_or_else(|| "".into(), |read| Count::unnamed(read).into());
        let published: Vec<String> =
            step.published().map(|path| shown(path.display().to_string().as_bytes())).collect();
        let cells = vec![
            step.name.as_str().into(),
            step.command.as_str().into(),
            read,
            ends(step, report).unwrap_or_default().into(),
            published.join(", ").into(),
        ];
        table.add(cells, None);
    }
    let mut page = Page {
        title: job.to_owned(),
        answer: answer(steps, reports),
        sections: vec![Section::new("The steps", "", vec![Part::Table(table)])],
        ..Page::default()
    };
    let several = cleaned.len() > 1;
    for (name, cleaned) in cleaned {
        let Page { title, answer, subtitle, sections, sources } = cleaned;
        let heading = if several { format!("{name}: {title}") } else { title };
        page.sections.push(Section::new(format!("{heading}: {answer}"), subtitle, Vec::new()));
        page.sections.extend(sections);
        page.sources.extend(sources);
    }
    page
}
