// Whether a key belongs to what has the focus (text is being typed) rather than to the shortcuts.
const NOT_TEXT = ["radio", "checkbox", "button", "file", "range"];

export const typing = (target: EventTarget | null): boolean =>
  target instanceof HTMLElement &&
  (target.isContentEditable ||
    ["TEXTAREA", "SELECT"].includes(target.tagName) ||
    (target instanceof HTMLInputElement && !NOT_TEXT.includes(target.type)));
