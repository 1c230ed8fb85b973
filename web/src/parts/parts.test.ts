// What the front end decides by itself: how figures are written, where labels stand, which keys are shortcuts.
// @vitest-environment node
import { readdirSync, readFileSync } from "node:fs";
import { join } from "node:path";
import { describe, expect, it } from "vitest";
import { parted } from "./labels";
import { hertz, money, num, percent, short, signed } from "./words";

describe("words", () => {
  it("writes a real minus and no minus zero; what is unknown stays blank", () => {
    expect(num(-3.14)).toBe("−3.1");
    expect(num(-0.04)).toBe("0.0");
    expect(num(null)).toBe("–");
    expect(signed(2)).toBe("+2.0");
    expect(signed(0.04)).toBe("0.0");
    expect(signed(undefined)).toBe("–");
  });

  it("shortens only what is too long, and names bands, shares and money", () => {
    expect(short("Wheel arches", 12)).toBe("Wheel arches");
    expect(short("Wheel arches", 8)).toBe("Wheel a…");
    expect([hertz(125), hertz(2500), percent(0.634), money(3, "€")]).toEqual(["125", "2.5 k", "63 %", "€ 3.00"]);
  });
});

describe("labels", () => {
  const widths = [60, 60, 60];

  it("stand where they belong while there is room", () => {
    expect(parted([10, 100, 200], widths, 300)).toEqual([10, 100, 200]);
  });

  it.each([
    ["bunched at the right end", [280, 285, 290]],
    ["bunched at the left end", [0, 1, 2]],
  ])("never lie on one another: %s", (_, wanted) => {
    const at = parted(wanted, widths, 300);
    at.slice(1).forEach((x, i) => expect(x).toBeGreaterThanOrEqual((at[i] ?? 0) + 60 + 4));
    expect(Math.min(...at)).toBeGreaterThanOrEqual(0);
    expect((at.at(-1) ?? 0) + 60).toBeLessThanOrEqual(300);
  });
});

describe("styles", () => {
  const stages = join(import.meta.dirname, "..", "stages");
  it.each(readdirSync(stages))("of %s: every class is used, every used class is there", (stage) => {
    const files = readdirSync(join(stages, stage));
    const read = (wanted: RegExp) =>
      files
        .filter((f) => wanted.test(f))
        .map((f) => readFileSync(join(stages, stage, f), "utf-8"))
        .join("\n");
    const selectors = read(/\.module\.css$/)
      .replace(/\/\*[^]*?\*\//g, "")
      .replace(/\{[^{}]*\}/g, "{}")
      .replace(/:global\([^)]*\)/g, "");
    const named = (text: string, pattern: RegExp) => new Set([...text.matchAll(pattern)].map((m) => m[1] ?? ""));
    const camel = (name: string) => name.replace(/-(\w)/g, (_, c: string) => c.toUpperCase());
    const there = new Set([...named(selectors, /\.([a-z][\w-]*)/g)].map(camel));
    expect([...named(read(/\.tsx$/), /\b(?:css|ownCss)\.(\w+)/g)].sort()).toEqual([...there].sort());
  });
});
