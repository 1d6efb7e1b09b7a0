//! The rule as a schema of a JSON text (JSON Schema 2020-12).

use serde_json::{Map, Value, json};
use ypogram_core::entry_rule::{Condition, Demand, EntryRule, Flavour};

/// The names of the conditions that the schema does not hold.
pub(super) fn without(rule: &EntryRule) -> Vec<String> {
    let others = rule.conditions.iter().filter(|condition| of_condition(condition).is_none());
    others.map(|condition| condition.name.clone()).collect()
}

/// The schema, with `remarks` as its comment.
pub(super) fn write(rule: &EntryRule, remarks: &str) -> String {
    let conditions: Vec<Value> = rule.conditions.iter().filter_map(of_condition).collect();
    let mut schema = Map::new();
    schema.insert("$schema".into(), json!("https://json-schema.org/draft/2020-12/schema"));
    schema.insert("$comment".into(), remarks.into());
    schema.insert("title".into(), json!("Email address"));
    schema.insert("type".into(), json!("string"));
    schema.insert("minLength".into(), json!(1));
    if let Some(longest) = rule.longest {
        schema.insert("maxLength".into(), json!(longest));
    }
    schema.insert("allOf".into(), Value::Array(conditions));
    serde_json::to_string_pretty(&Value::Object(schema)).expect("plain data") + "\n"
}

/// A condition, which says what is wrong where it does not hold.
fn of_condition(condition: &Condition) -> Option<Value> {
    let pattern = |regex: &str| Some(json!({ "pattern": Flavour::EcmaScript.write(regex)? }));
    let demand = match condition.demand.as_expressions() {
        Demand::Matches(regex) => pattern(&regex)?,
        Demand::Never(regex) => json!({ "not": pattern(&regex)? }),
        Demand::Where(place, regex) => json!({ "anyOf": [{ "not": pattern(&place)? }, pattern(&regex)?] }),
        _ => return None,
    };
    let mut schema = Map::new();
    schema.insert("title".into(), json!(condition.name));
    schema.insert("description".into(), json!(condition.sentence));
    schema.extend(demand.as_object().cloned().unwrap_or_default());
    Some(Value::Object(schema))
}
