// Made from the core: `DOCUMENTS=overwrite cargo test --workspace --test desk types`.

/** What changes. */
type Change =
  | { "set": { "property": string; "value": string; } }
  | { "step": { "property": string; "by": string; } }
  | { "add": { "property": string; "value": string; } }
  | { "remove-declaration": { "property": string; } }
  | { "disable": { "property": string; } }
  | { "comment": { "property": string; "text": string; } }
  | { "enable": { "property": string; } }
  | { "change-property": { "property": string; "to": string; } }
  | { "important": { "property": string; "remove"?: boolean; } }
  | { "convert-color": { "property": string; "to": "hex" | "rgb" | "hsl" | "hwb" | "lab" | "lch" | "oklab" | "oklch" | "name"; "alpha"?: string; } }
  | { "rule": { "declarations": string; "selector"?: string; } }
  | { "selector": { "rule": string; "to"?: string; "add"?: string; "remove"?: string; } }
  | { "split": { "rule": string; "selector": string; } }
  | { "move-rule": { "rule": string; "before"?: string; "after"?: string; } }
  | { "remove-rule": { "rule": string; } }
  | { "condition": { "rule": string; "to": string; } }
  | { "enclose": { "rule": string; "within": string; } }
  | { "at-rule": { "source": string; } }
  | { "custom-property": { "name": string; "value": string; } }
  | { "attribute": { "name": string; "value"?: string; "remove"?: boolean; } }
  | { "class": { "changes": string[]; } }
  | { "text": { "text": string; "from"?: string; } }
  | { "tag": { "name": string; } }
  | { "markup": { "source": string; "inner"?: boolean; } }
  | { "insert": { "source": string; "side": "before" | "after" | "first" | "last"; } }
  | { "duplicate": { } }
  | { "move-element": { "to": string; "side": "before" | "after" | "first" | "last"; } }
  | { "remove-element": { } }
  | { "wrap": { "tag": string; } }
  | { "unwrap": { } }
  | { "new-sheet": { "file": string; "source"?: string; "after"?: string; "overrides"?: boolean; } }
  | { "rename": { "what": "class" | "id" | "custom-property"; "from": string; "to": string; } };

/** The questions of the API. */
type QuestionName = "find" | "tree" | "why" | "whynot" | "trace" | "values" | "sheets" | "fonts" | "describe" | "suggest value" | "suggest property" | "suggest class" | "suggest selector" | "suggest destination";
