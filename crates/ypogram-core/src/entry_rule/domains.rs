//! The conditions on the name of a domain: endings that exist, names that are reserved, and lists.

use crate::characters::idna_form::to_unicode;
use crate::data::{endings, providers, reserved};
use crate::entry_rule::condition::{Demand, ListedDomain};
use crate::entry_rule::wanted::Wanted;
use crate::judge::examine::examine;
use crate::model::class::Class;
use crate::model::codes::Code;
use crate::policy::job_policy::Policy;
use crate::policy::lists::EntryKind;

/// The domain is not reserved.
pub(super) fn not_reserved(policy: &Policy) -> Demand {
    let names = reserved::all().map(|(name, _)| ListedDomain { name: name.to_owned(), below: true });
    Demand::NotAt(names.collect(), policy.public_names.clone())
}

/// The top-level domain exists, or the domain is one that the job trusts. Names in other scripts stand in both their forms.
pub(super) fn known_ending(policy: &Policy) -> Demand {
    let mut names: Vec<String> = endings::all().map(str::to_owned).collect();
    names.extend(policy.public_names.iter().cloned());
    let in_letters: Vec<String> = names.iter().map(|name| to_unicode(name)).collect();
    names.extend(in_letters);
    names.sort_unstable();
    names.dedup();
    Demand::Below(names)
}

/// The domains that are refused for what lists say of them, by the finding or class that does it. The policy itself is asked about each domain
/// that a list has.
pub(super) fn listed(policy: &Policy, wanted: &Wanted<'_>) -> Vec<(Code, String, Vec<ListedDomain>)> {
    let own = policy.lists.iter().flat_map(|list| {
        let domains = (0..list.len()).filter(|entry| matches!(list.kind(*entry), EntryKind::Domain { .. }));
        domains.map(|entry| String::from_utf8_lossy(list.text(entry)).into_owned()).collect::<Vec<_>>()
    });
    let mut names: Vec<String> = providers::all().map(|(name, _)| name.to_owned()).chain(own).collect();
    names.sort_unstable();
    names.dedup();
    let mut refused: Vec<(Code, String, Vec<ListedDomain>)> = Vec::new();
    for name in names {
        let Some((code, why)) = refuses(&name, policy, wanted) else { continue };
        let below = refuses(&format!("zz.{name}"), policy, wanted).is_some();
        let domain = ListedDomain { name, below };
        match refused.iter_mut().find(|(_, known, _)| *known == why) {
            Some((_, _, domains)) => domains.push(domain),
            None => refused.push((code, why, vec![domain])),
        }
    }
    refused
}

/// The finding or class for which every address at `domain` is refused.
fn refuses(domain: &str, policy: &Policy, wanted: &Wanted<'_>) -> Option<(Code, String)> {
    let examined = examine(format!("night.owl@{domain}").as_bytes(), policy);
    let of_list = |code: &Code| !code.is_built_in() || Class::all().any(|class| class.code() == Some(*code));
    let mut rejecting = examined.codes.intersection(policy.rejecting()).iter().filter(of_list);
    if let Some(code) = rejecting.next() {
        return Some((code, code.name().to_owned()));
    }
    let class = examined.class.filter(|class| wanted.without.contains(class))?;
    let code = class.code().unwrap_or(Code::FreeProvider);
    Some((code, format!("class-{}", class.word())))
}
