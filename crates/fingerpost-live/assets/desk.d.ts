// What the desk's modules are checked against.

/**
 * The desk's own markup is looked up by ids and classes: what is found there is an HTML element, and often a field.
 * Every property that the modules read of one is here.
 */
interface DeskElement {
  value: string;
  defaultValue: string;
  checked: boolean;
  disabled: boolean;
  hidden: boolean;
  open: boolean;
  name: string;
  title: string;
  src: string;
  form: HTMLFormElement | null;
  selectionStart: number | null;
  readonly dataset: DOMStringMap;
  readonly style: CSSStyleDeclaration & { zoom: string | number };
  readonly contentWindow: Window;
  readonly innerText: string;
  click(): void;
  focus(): void;
  blur(): void;
  reset(): void;
  showModal(): void;
  setSelectionRange(from: number, to: number): void;
}
interface Element extends DeskElement {}
interface EventTarget extends DeskElement {
  id: string;
  matches(selector: string): boolean;
  closest(selector: string): Element | null;
  querySelector(selector: string): Element | null;
  setAttribute(name: string, value: string): void;
}
interface Event extends Pick<KeyboardEvent, "key" | "shiftKey" | "ctrlKey" | "metaKey" | "altKey">, Pick<PointerEvent, "pointerId" | "clientX" | "clientY"> {
  submitter: HTMLButtonElement | null;
}
declare class EyeDropper {
  open(): Promise<{ sRGBHex: string }>;
}

/** How a message names an element: by its handle, or by a number where a script made it. */
interface ElementName {
  handle?: number;
  made?: number;
  pseudo?: string;
}

/** What is saved: `POST /api/save`. */
type WhatToSave = "all" | { changes: number[] } | { files: string[] };

/** A step of the draft: `POST /api/draft`. */
type DraftStep =
  | { do: "undo" }
  | { do: "redo" }
  | { do: "switch"; change: number; on: boolean }
  | { do: "discard"; change?: number }
  | { do: "reapply"; change?: number }
  | { do: "retarget"; change: number; to: string };

/** What a question of the API is asked with: `GET /api/ask`. */
interface AskParams {
  question: QuestionName;
  [part: string]: string | number | boolean | undefined;
}
