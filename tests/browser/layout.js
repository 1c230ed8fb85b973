// Measures a page as it stands: how far it scrolls sideways, what lies on what, which targets are small.
(least) => {
  const TARGETS = "a[href], button, input:not([type=hidden]):not([type=file]), select, textarea, summary, [role=slider], [role=combobox], [role=radio], [role=tab]";
  const dialog = [...document.querySelectorAll(".ant-modal, .ant-drawer-content, .ant-popover:not(.ant-popover-hidden)")]
    .filter((e) => e.getClientRects().length).at(-1);
  const root = dialog ?? document.body;
  const fixed = (e) => {
    for (; e && e !== root; e = e.parentElement) if (["fixed", "sticky"].includes(getComputedStyle(e).position)) return true;
    return false;
  };
  // a box as it is seen: cut by every ancestor that clips
  const seen = (box, e, within = false) => {
    let { left, top, right, bottom } = box;
    for (let p = e; p && p !== document.body; p = p.parentElement) {
      const s = getComputedStyle(p);
      if (s.visibility === "hidden" || s.opacity === "0" || s.clipPath !== "none") return null;
      if ((within || p !== e) && (s.overflowX !== "visible" || s.overflowY !== "visible")) {
        const b = p.getBoundingClientRect();
        [left, top, right, bottom] = [Math.max(left, b.left), Math.max(top, b.top), Math.min(right, b.right), Math.min(bottom, b.bottom)];
      }
      if (s.position === "fixed") break;
    }
    return right - left > 1 && bottom - top > 1 ? { left, top, right, bottom } : null;
  };
  const skip = (e) => e.closest("svg, [aria-hidden=true], .ant-message, .ant-tooltip") || fixed(e);
  const told = (e) => `${e.tagName.toLowerCase()} "${(e.getAttribute?.("aria-label") || e.textContent || e.className).trim().slice(0, 40)}"`;

  const things = [];
  const walker = document.createTreeWalker(root, NodeFilter.SHOW_TEXT);
  for (let n; (n = walker.nextNode()); ) {
    const e = n.parentElement;
    if (!n.data.trim() || !e || skip(e) || !e.checkVisibility()) continue;
    const range = document.createRange();
    range.selectNodeContents(n);
    for (const r of range.getClientRects()) {
      // the line's box is taller than its letters
      const cut = Math.max(0, (r.height - parseFloat(getComputedStyle(e).fontSize)) / 2);
      const box = seen({ left: r.left, right: r.right, top: r.top + cut, bottom: r.bottom - cut }, e, true);
      if (box) things.push({ e, box, text: n.data.trim().slice(0, 40) });
    }
  }
  const own = (e) => e.closest(".ant-select, .ant-input-affix-wrapper, .ant-segmented-item, .ant-slider") ?? e;
  const targets = new Map();
  for (const t of root.querySelectorAll(TARGETS)) {
    if (t.closest("svg, [aria-hidden=true], [hidden]") || !t.checkVisibility() || t.disabled) continue;
    const e = own(t);
    const box = seen(e.getBoundingClientRect(), e);
    if (box) targets.set(e, box);
  }
  const solid = [...targets].filter(([e]) => !fixed(e) && !e.matches("[role=slider]") && getComputedStyle(e).display !== "inline").map(([e, box]) => ({ e, box, text: told(e) }));

  const meet = (a, b) => Math.min(a.right, b.right) - Math.max(a.left, b.left) > 2 && Math.min(a.bottom, b.bottom) - Math.max(a.top, b.top) > 2;
  const overlaps = [];
  const all = [...things, ...solid].sort((a, b) => a.box.top - b.box.top);
  all.forEach((a, i) => {
    for (let k = i + 1; k < all.length && all[k].box.top < a.box.bottom; k += 1) {
      const b = all[k];
      if (a.e === b.e || a.e.contains(b.e) || b.e.contains(a.e) || !meet(a.box, b.box)) continue;
      overlaps.push(`${a.text} / ${b.text}`);
    }
  });

  const small = [];
  for (const [e, b] of targets) {
    const inText = e.tagName === "A" && e.closest("p, li, span, .small, .note") && getComputedStyle(e).display === "inline";
    if (inText || e.matches("[role=slider]")) continue;
    const label = e.closest("label");
    const box = label ? label.getBoundingClientRect() : e.getBoundingClientRect();
    const wanted = e.closest(".top, .stages, .thumb-bar") ? Math.max(least, 44) : least;
    if (box.height < wanted - 0.5 || box.width < Math.min(wanted, 44) - 0.5) small.push(`${told(e)} ${Math.round(box.width)}×${Math.round(box.height)}`);
  }
  return {
    sideways: document.documentElement.scrollWidth - innerWidth,
    overlaps: [...new Set(overlaps)].slice(0, 8),
    small: [...new Set(small)].slice(0, 8),
  };
}
