// What the kit of pictures decides by itself: which point is read, what is said of it, where things stand.
import { describe, expect, it } from "vitest";
import { nearestTo, said, stepped } from "./Chart";
import { bands, between, levels, steps } from "./scales";

const points = [10, 30, 70].map((at, i) => ({ at, name: `${i}`, values: [] }));

describe("reading", () => {
  it("takes the nearest point, in one direction or in the plane", () => {
    expect(nearestTo(points, 49, 0)).toBe(1);
    expect(nearestTo(points, 51, 0)).toBe(2);
    expect(nearestTo([], 5, 0)).toBeNull();
    const plane = [
      { at: 0, across: 0, name: "a", values: [] },
      { at: 0, across: 50, name: "b", values: [] },
    ];
    expect(nearestTo(plane, 0, 40)).toBe(1);
  });

  it("walks by the arrows from either end and stays within", () => {
    expect(stepped("ArrowRight", null, 4)).toBe(0);
    expect(stepped("ArrowLeft", null, 4)).toBe(4);
    expect(stepped("ArrowRight", 4, 4)).toBe(4);
    expect(stepped("PageUp", 4, 4)).toBe(1);
    expect(stepped("Home", 3, 4)).toBe(0);
    expect(stepped("End", null, 4)).toBe(4);
    expect(stepped("x", 2, 4)).toBeNull();
    expect(stepped("ArrowRight", null, -1)).toBeNull();
  });

  it("says a point with what its values are called, and leaves out what is unknown", () => {
    const point = { at: 0, name: "125 Hz", values: ["70.2 dB", null, "−9.2 dB"] };
    expect(said(["band", "now", "after", "change"], point)).toBe("125 Hz: now 70.2 dB, change −9.2 dB");
  });
});

describe("scales", () => {
  it("stands on round steps, and cuts what lies too far below", () => {
    const y = levels([31, 74], 0, 100);
    expect(y.domain()).toEqual([20, 80]);
    expect(y(80)).toBe(0);
    expect(steps(y)).toEqual([20, 30, 40, 50, 60, 70, 80]);
    expect(levels([-200, 74], 0, 100, { most: 60 }).domain()).toEqual([20, 80]);
  });

  it("finds a frequency between two bands", () => {
    const hz = [100, 200, 400];
    const x = bands(hz, 0, 300);
    const at = between(x, hz)(Math.sqrt(100 * 200));
    expect(at).toBeCloseTo((x.middle(100) + x.middle(200)) / 2, 6);
  });
});
