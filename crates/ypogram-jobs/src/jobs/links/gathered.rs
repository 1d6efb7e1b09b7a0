//! What is gathered while the records are read.

use hashbrown::HashMap;
use ypogram_core::{Class, Code, Hasher, Judge, Summary};
use ypogram_io::{Batch, Error, Record, Result};

use crate::engine::pipeline;
use crate::engine::progress::Progress;
use crate::engine::reading::{Reading, Task};
use crate::engine::texts::Texts;
use crate::jobs::links::options::LinksOptions;
use crate::jobs::links::report::LinksReport;
use crate::jobs::links::values;
use crate::judge::select_address::AddressSelector;
use crate::plan::contact_trait::ContactTrait;
use crate::plan::fields::FieldPlan;
use crate::plan::read_columns::ReadColumns;

/// Everything that the graph is made of.
#[derive(Default)]
pub(super) struct Gathered {
    pub(super) addresses: Texts,
    /// By address.
    pub(super) links: Vec<AddressLinks>,
    pub(super) local_parts: Texts,
    /// By local part.
    pub(super) is_role: Vec<bool>,
    pub(super) domains: Texts,
    /// By domain.
    pub(super) class: Vec<Option<Class>>,
    pub(super) fields: Vec<FieldValues>,
}

/// What an address hangs on.
pub(super) struct AddressLinks {
    /// Records that hold it.
    pub(super) records: u32,
    pub(super) local_part: u32,
    pub(super) domain: u32,
}

/// The values of a field.
pub(super) struct FieldValues {
    pub(super) name: String,
    pub(super) what: Option<ContactTrait>,
    /// As they are compared.
    pub(super) keys: Texts,
    /// As they stood first.
    pub(super) shown: Vec<Box<str>>,
    shown_bytes: usize,
    /// How many records say that this value and this address belong together.
    pub(super) edges: HashMap<(u32, u32), u32>,
}

/// What a chunk holds.
#[derive(Default)]
struct Part {
    records: u64,
    without: u64,
    further: u64,
    /// Local parts, domains and values, one behind the other.
    text: Vec<u8>,
    addresses: Vec<PartAddress>,
    values: Vec<PartValue>,
    /// Where the addresses and the values of each record end.
    ends: Vec<(usize, usize)>,
}

struct PartAddress {
    end: usize,
    /// Bytes of the local part.
    local_part: usize,
    class: Option<Class>,
    is_role: bool,
}

struct PartValue {
    field: usize,
    compared: String,
    shown: String,
}

/// Reads the sources.
pub(super) fn gather(
    options: &LinksOptions,
    progress: &Progress,
    report: &mut LinksReport,
) -> Result<Gathered> {
    let mut reading = Reading::open(&options.sources, &options.open)?;
    let plan = FieldPlan::settle(&mut reading, &options.fields, &options.policy)?;
    (report.columns, report.how) = (ReadColumns::of(&plan), plan.how.clone());
    let by: Vec<(usize, Option<ContactTrait>)> = by_fields(options, &plan, &reading)?;
    let is_telephone = |name: &&String| ContactTrait::Telephone.is_named_by(name);
    report.telephone_field = plan.fields.iter().find(is_telephone).filter(|_| by.is_empty()).cloned();
    let mut gathered =
        Gathered { fields: by.iter().map(|by| FieldValues::of(&plan, *by)).collect(), ..Gathered::default() };
    let workers: Vec<_> = (0..options.threads.max(1))
        .map(|_| {
            let mut selector =
                AddressSelector::new(&plan, &options.policy, Hasher::with_key(options.hash_key));
            let mut further = Judge::new(&options.policy, Hasher::with_key(options.hash_key));
            let mut decoders = reading.decoders();
            let mut batch = Batch::default();
            let (plan, by) = (&plan, &by);
            move |task: &mut Task, part: &mut Part| {
                batch.clear();
                decoders[task.source].decode(&task.chunk, &mut batch)?;
                *part = Part::default();
                let (mut cells, mut candidates) = (Vec::new(), Vec::new());
                selector.faulty.clear();
                for record in batch.records(&task.chunk) {
                    part.records += 1;
                    let selected = selector.pick_caught(record, &mut cells, &mut candidates);
                    let Some(selected) = selected.filter(|selected| selected.has_mailbox()) else {
                        part.without += 1;
                        continue;
                    };
                    part.add(&selector.judge, selected.judged);
                    for address in selector.more.split(|byte| *byte == b',').filter(|more| !more.is_empty()) {
                        let judged = further.judge(address);
                        part.add(&further, judged);
                        part.further += 1;
                    }
                    part.end_record(record, plan, by);
                }
                Ok(())
            }
        })
        .collect();
    pipeline::run_in_order(&mut reading, workers, progress, |_, part: &mut Part| {
        report.records += part.records;
        report.without += part.without;
        report.further += part.further;
        gathered.take(part);
        match gathered.memory() > options.memory {
            true => Err(too_much(options.memory)),
            false => Ok(()),
        }
    })?;
    report.sources = reading.reports();
    Ok(gathered)
}

fn by_fields(
    options: &LinksOptions,
    plan: &FieldPlan,
    reading: &Reading,
) -> Result<Vec<(usize, Option<ContactTrait>)>> {
    let mut fields: Vec<(usize, Option<ContactTrait>)> = Vec::new();
    for name in &options.by {
        let field = plan.place_of(name, reading, "--by")?;
        if fields.iter().any(|(known, _)| *known == field) {
            return Err(Error::unusable(format!("--by names {name} twice"), "name it once"));
        }
        let what = ContactTrait::ALL.into_iter().find(|what| what.is_named_by(&plan.fields[field]));
        fields.push((field, what));
    }
    Ok(fields)
}

#[cold]
fn too_much(memory: usize) -> Error {
    Error::unusable(
        format!("the graph of these records takes more memory than the {} MB of --memory", memory >> 20),
        "give it more, such as --memory 8G, or leave out a field of --by",
    )
}

impl FieldValues {
    fn of(plan: &FieldPlan, (field, what): (usize, Option<ContactTrait>)) -> Self {
        let name = plan.fields[field].clone();
        let (keys, shown, edges) = Default::default();
        FieldValues { name, what, keys, shown, shown_bytes: 0, edges }
    }

    fn memory(&self) -> usize {
        let shown = self.shown.capacity() * size_of::<Box<str>>() + self.shown_bytes;
        self.keys.memory() + shown + self.edges.allocation_size()
    }
}

impl Part {
    /// Adds the address that `judge` holds.
    fn add(&mut self, judge: &Judge<'_>, judged: Summary) {
        self.text.extend_from_slice(judge.address());
        self.addresses.push(PartAddress {
            end: self.text.len(),
            local_part: judge.local_part().len(),
            class: judged.class,
            is_role: judged.codes.contains(Code::RoleAccount) || judged.codes.contains(Code::NoReply),
        });
    }

    fn end_record(&mut self, record: Record<'_>, plan: &FieldPlan, by: &[(usize, Option<ContactTrait>)]) {
        for (nth, (field, what)) in by.iter().enumerate() {
            let values = values::values_of(plan.cell(record, *field).unwrap_or_default(), *what);
            let values = values.into_iter();
            self.values.extend(values.map(|(compared, shown)| PartValue { field: nth, compared, shown }));
        }
        self.ends.push((self.addresses.len(), self.values.len()));
    }
}

impl Gathered {
    fn take(&mut self, part: &Part) {
        let (mut at, mut first, mut first_value) = (0, 0, 0);
        let mut own = Vec::new();
        for (end, end_of_values) in &part.ends {
            own.clear();
            for address in &part.addresses[first..*end] {
                own.push(self.address(&part.text[at..address.end], address));
                at = address.end;
            }
            for value in &part.values[first_value..*end_of_values] {
                let field = &mut self.fields[value.field];
                let (number, is_new) = field.keys.number(value.compared.as_bytes());
                if is_new {
                    field.shown.push(value.shown.as_str().into());
                    field.shown_bytes += value.shown.len();
                }
                for address in &own {
                    *field.edges.entry((number, *address)).or_default() += 1;
                }
            }
            (first, first_value) = (*end, *end_of_values);
        }
    }

    fn address(&mut self, text: &[u8], part: &PartAddress) -> u32 {
        let (number, is_new) = self.addresses.number(text);
        if is_new {
            let (local_part, is_new) = self.local_parts.number(&text[..part.local_part]);
            if is_new {
                self.is_role.push(false);
            }
            self.is_role[local_part as usize] |= part.is_role;
            let (domain, is_new) = self.domains.number(&text[part.local_part + 1..]);
            if is_new {
                self.class.push(part.class);
            }
            self.links.push(AddressLinks { records: 0, local_part, domain });
        }
        self.links[number as usize].records += 1;
        number
    }

    /// Bytes of memory, with those of the edges that are sorted at the end.
    fn memory(&self) -> usize {
        const SORTED: usize = 64;
        let texts = [&self.addresses, &self.local_parts, &self.domains].map(Texts::memory);
        let fields: usize = self.fields.iter().map(FieldValues::memory).sum();
        texts.iter().sum::<usize>() + fields + self.links.len() * SORTED
    }
}
