//! The answer of any question, laid out for people.

use fingerpost::asking::{Answered, AnyAnswer, Asked};
use fingerpost::page::Target;
use fingerpost::question::find::ElementQuery;

use super::{
    destinations, facts, find, fonts, selectors, sheets, trace, tree, values, why, whynot,
};
use crate::problem::Result;

/// The answer as text; `asked` is the page that it is about, where it is about one.
pub fn answer(answered: &Answered, asked: Option<&Asked<'_>>) -> Result<String> {
    Ok(match &answered.answer {
        AnyAnswer::Find(answer) => {
            let what = asked.and_then(|asked| asked.elements.first());
            find::find(
                answer,
                &what.map(ElementQuery::in_words).unwrap_or_default(),
            )
        }
        AnyAnswer::Tree(answer) => tree::tree(answer),
        AnyAnswer::Why(answer) => why::why(answer),
        AnyAnswer::WhyNot(answer) => whynot::whynot(answer, &answered.advice),
        AnyAnswer::Trace(answer) => trace::trace(answer),
        AnyAnswer::Values(answer) => values::values(answer),
        AnyAnswer::Opened(answer) => values::opened(answer),
        AnyAnswer::ValuesOfEach(_) => asked.map(values_of_each).transpose()?.unwrap_or_default(),
        AnyAnswer::Sheets(answer) => {
            let changes = asked.map(|asked| asked.site.changes()).transpose()?;
            let names = changes.iter().flatten().map(|c| c.before.name().to_owned());
            sheets::sheets(answer, &names.collect::<Vec<_>>())
        }
        AnyAnswer::Fonts(answer) => fonts::fonts(answer),
        AnyAnswer::Facts(answer) => facts::facts(answer),
        AnyAnswer::Complete(answer) => facts::complete(answer),
        AnyAnswer::Classes(answer) => {
            let is_for_element = asked.is_some_and(|asked| asked.parts.has("property"));
            selectors::classes(answer, &answered.advice, is_for_element)
        }
        AnyAnswer::Selectors(answer) => selectors::selectors(answer),
        AnyAnswer::Destinations(answer) => destinations::destinations(answer, &answered.advice),
    })
}

/// A person also reads where each value is set.
fn values_of_each(asked: &Asked<'_>) -> Result<String> {
    let (page, elements) = asked.targets()?;
    let (filter, initial) = (asked.parts.text("filter"), asked.parts.has("initial"));
    let ask = page.ask();
    let all = elements.into_iter().map(|id| {
        let answer = ask.values(Target::from(id), filter, initial);
        format!("{}\n", values::values(&answer))
    });
    Ok(all.collect())
}
