//! Which rules stand at a place of a sheet that a person gives.

use super::{DeclarationId, RuleId, Sheet};
use crate::text::{Cut, TextRange, TextSize};

/// A rule, and the declaration of it that the place names, if it names one.
type Hit = (RuleId, Option<DeclarationId>);

impl Sheet {
    /// The rules that a line may mean, or a line and a column, both from 1, of those that `takes` lets
    /// through.
    ///
    /// A column means the innermost rule that stands there. A line alone means the rules that begin
    /// on it; where none does, the innermost one around what is in it.
    ///
    /// ```
    /// use fingerpost::sheet::Sheet;
    /// use fingerpost::text::Text;
    ///
    /// let text = Text::new("a.css", "p { color: teal }\n.late { color: maroon }");
    /// let sheet = Sheet::parse(text.clone(), text.span());
    /// // What is at line 2, column 9?
    /// let found = sheet.rules_at(2, Some(9), &|_| true);
    /// let (rule, declaration) = found[0];
    /// assert_eq!(sheet.prelude_source(sheet.rule(rule)), ".late");
    /// assert!(declaration.is_some());
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn rules_at(
        &self,
        line: u32,
        column: Option<u32>,
        takes: &dyn Fn(RuleId) -> bool,
    ) -> Vec<Hit> {
        match column {
            Some(column) => self.at_column(line, column, takes).into_iter().collect(),
            None => self.at_line(line, takes),
        }
    }

    /// The rules that a place of a file from which the sheet was made may mean: those that were
    /// written there, or that hold a declaration that was.
    pub fn rules_written_at(
        &self,
        file: &str,
        line: u32,
        column: Option<u32>,
        takes: &dyn Fn(RuleId) -> bool,
    ) -> Vec<Hit> {
        let is_there = |offset: TextSize| {
            let authored = self.text().authored();
            let place = authored.and_then(|map| map.place(self.text(), offset));
            place.is_some_and(|place| {
                place.file == file
                    && place.line == line
                    && column.is_none_or(|column| column == place.column)
            })
        };
        let rules: Vec<Hit> = self
            .rules()
            .filter(|(id, rule)| takes(*id) && is_there(rule.span.start()))
            .map(|(id, _)| (id, None))
            .collect();
        if !rules.is_empty() {
            return rules;
        }
        let mut found: Vec<Hit> = self
            .declarations()
            .filter(|(_, d)| takes(d.rule) && is_there(d.span.start()))
            .map(|(id, d)| (d.rule, Some(id)))
            .collect();
        found.dedup_by_key(|(rule, _)| *rule);
        found
    }

    fn innermost(&self, offset: TextSize, takes: &dyn Fn(RuleId) -> bool) -> Option<RuleId> {
        let around = self
            .rules()
            .filter(|(id, rule)| rule.span.contains(offset) && takes(*id));
        let found = around.min_by_key(|(id, rule)| (rule.span.len(), std::cmp::Reverse(*id)));
        found.map(|(id, _)| id)
    }

    fn at_column(&self, line: u32, column: u32, takes: &dyn Fn(RuleId) -> bool) -> Option<Hit> {
        let offset = self.text().offset(line, column)?;
        let id = self.innermost(offset, takes)?;
        let mut own = self.declarations_of(id);
        let named = own.find(|(_, d)| d.whole().contains(offset));
        Some((id, named.map(|(id, _)| id)))
    }

    fn at_line(&self, line: u32, takes: &dyn Fn(RuleId) -> bool) -> Vec<Hit> {
        let Some(line) = self.text().line_span(line) else {
            return Vec::new();
        };
        let begins: Vec<Hit> = self
            .rules()
            .filter(|(id, rule)| {
                let start = rule.span.start();
                line.contains_inclusive(start) && !rule.span.is_empty() && takes(*id)
            })
            .map(|(id, _)| (id, None))
            .collect();
        if !begins.is_empty() {
            return begins;
        }
        let text = self.text().slice(line);
        let blank = text.cut(..text.len() - text.trim_start().len());
        let Some(id) = self.innermost(line.start() + TextSize::of(blank), takes) else {
            return Vec::new();
        };
        let on = |span: TextRange| span.intersect(line).is_some_and(|part| !part.is_empty());
        let mut own = self.declarations_of(id).filter(|(_, d)| on(d.span));
        // Of several declarations the line names none.
        let (one, two) = (own.next(), own.next());
        vec![(id, one.filter(|_| two.is_none()).map(|(id, _)| id))]
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::text::Text;

    #[test]
    fn a_column_tells_rules_apart_that_touch() {
        let text = Text::new("a.css", ".a{top:0;left:0}.b{right:0}\n.c {\n  top: 0;\n}\n");
        let span = text.span();
        let sheet = Sheet::parse(text, span);
        let heads = |line, column| -> Vec<(String, Option<String>)> {
            let found = sheet.rules_at(line, column, &|_| true).into_iter();
            found
                .map(|(id, declaration)| {
                    let head = sheet.prelude_source(sheet.rule(id)).to_owned();
                    let name =
                        declaration.map(|d| sheet.name_source(sheet.declaration(d)).to_owned());
                    (head, name)
                })
                .collect()
        };
        let rule = |head: &str, name: Option<&str>| (head.to_owned(), name.map(str::to_owned));
        assert_eq!(heads(1, None), [rule(".a", None), rule(".b", None)]);
        assert_eq!(heads(1, Some(17)), [rule(".b", None)]);
        assert_eq!(heads(1, Some(16)), [rule(".a", None)]);
        assert_eq!(heads(1, Some(10)), [rule(".a", Some("left"))]);
        assert_eq!(heads(3, None), [rule(".c", Some("top"))]);
        assert_eq!(heads(9, None), []);
    }
}
