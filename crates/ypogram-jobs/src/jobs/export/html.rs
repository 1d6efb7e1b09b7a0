//! The rule as attributes of an input, with a script that shows what is wrong while an address is typed.

use serde_json::{Map, Value, json};
use ypogram_core::entry_rule::{Condition, Demand, EntryRule, Extent, Flavour, Length};

/// The script; the conditions go in at their mark.
const SCRIPT: &str = include_str!("entry.js");
const MARK: &str = "/*CONDITIONS*/";

/// The names of the conditions that the script does not hold, and of those that the attributes do not.
pub(super) fn without(rule: &EntryRule) -> (Vec<String>, Vec<String>) {
    let script = rule.conditions.iter().filter(|condition| of_condition(condition).is_none());
    let attributes = rule.expression(Flavour::EcmaScript, Extent::WithoutLists).without;
    (script.map(|condition| condition.name.clone()).collect(), attributes)
}

/// The input and the script, below `remarks`.
pub(super) fn write(rule: &EntryRule, title: &str, remarks: &[String]) -> String {
    let expression = rule.expression(Flavour::EcmaScript, Extent::WithoutLists).text;
    // A pattern is one of the whole value.
    let pattern = expression.trim_start_matches('^');
    let longest = rule.longest.map_or_else(String::new, |longest| format!(" maxlength=\"{longest}\""));
    let conditions: Vec<Value> = rule.conditions.iter().filter_map(of_condition).collect();
    let conditions = conditions.iter().map(|condition| format!("\n    {condition}"));
    let conditions = format!("[{}\n  ]", conditions.collect::<Vec<_>>().join(","));
    // What looks like a tag would end the script, or change how it is read, whatever it stands in.
    let script = SCRIPT.replace(MARK, &conditions.replace('<', "\\u003C"));
    format!(
        "<!--\n{}\n-->\n<style>\n  address-entry input {{ width: 22em; max-width: 100% }}\n  \
         address-entry output {{ display: block; color: #a00000 }}\n</style>\n<address-entry>\n  <label>Email address\n    <input type=\"email\" name=\"email\" autocomplete=\"email\"{longest} required\n      \
         pattern=\"{}\"\n      title=\"{}\">\n  </label>\n</address-entry>\n<script>\n{script}</script>\n",
        remarks.join("\n").replace("--", "- -"),
        attribute(pattern),
        attribute(title)
    )
}

fn attribute(text: &str) -> String {
    text.replace('&', "&amp;").replace('"', "&quot;").replace('<', "&lt;")
}

/// A condition in the words of the script.
fn of_condition(condition: &Condition) -> Option<Value> {
    let regex = |text: &str| Some(Value::from(Flavour::EcmaScript.write(text)?));
    let words = |words: &mut dyn Iterator<Item = &String>| {
        let words: Vec<&str> = words.map(String::as_str).collect();
        Value::from(words.join(" "))
    };
    let mut object = Map::new();
    let mut set = |key: &str, value: Value| drop(object.insert(key.to_owned(), value));
    set("finding", json!(condition.code.name()));
    set("message", json!(condition.sentence));
    match &condition.demand {
        Demand::Matches(text) => set("is", regex(text)?),
        Demand::Never(text) => set("not", regex(text)?),
        Demand::Where(place, text) => {
            set("where", regex(place)?);
            set("is", regex(text)?);
        }
        Demand::AtMost(length, bytes) => {
            set("most", json!(bytes));
            if *length == Length::LocalPart {
                set("ofLocalPart", json!(true));
            }
        }
        // Domains are compared in A-labels.
        Demand::Below(names) => set("below", words(&mut names.iter().filter(|name| name.is_ascii()))),
        Demand::NotAt(listed, but) => {
            let of = |below: bool| listed.iter().filter(move |listed| listed.below == below);
            for (key, below) in [("at", false), ("under", true)] {
                if of(below).next().is_some() {
                    set(key, words(&mut of(below).map(|listed| &listed.name)));
                }
            }
            if !but.is_empty() {
                set("but", words(&mut but.iter()));
            }
        }
        Demand::NotNamed(local_parts) => set("named", words(&mut local_parts.iter())),
    }
    Some(Value::Object(object))
}
