// Guards: friction solved on speeds: it sticks up to its capacity, slips at it, and never gives energy.
import { describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import { Contacts } from "./contacts.ts";
import { inverse } from "./mechanism.ts";

/** Two wheels of 0.2 and 0.5 kg·m² with a clutch between them. */
const pair = () => new Contacts([Float64Array.of(1, -1)], Float64Array.of(5, 0, 0, 2), 2);
const solve = (contacts: Contacts, speeds: Float64Array, most: number, least = -most) => {
  contacts.solve(speeds, Float64Array.of(least), Float64Array.of(most));
  return speeds;
};

describe("a clutch between two wheels", () => {
  it("with enough capacity brings both to the common speed of their momentum", () => {
    const v = solve(pair(), Float64Array.of(100, 0), 1e6);
    // (0.2·100 + 0.5·0)/(0.2 + 0.5)
    expect(v[0]).toBeCloseTo(20 / 0.7, 9);
    expect(v[1]).toBeCloseTo(20 / 0.7, 9);
  });
  it("with less gives just its capacity, against the slip", () => {
    const v = solve(pair(), Float64Array.of(100, 0), 2);
    expect(v[0]).toBeCloseTo(100 - 2 * 5, 9);
    expect(v[1]).toBeCloseTo(2 * 2, 9);
  });
  it("one way only: holds positive slip back and lets the other go", () => {
    expect([...solve(pair(), Float64Array.of(0, 50), 0, 0)]).toEqual([0, 50]);
    const held = solve(pair(), Float64Array.of(50, 0), 0, -1e6);
    expect(held[0]).toBeCloseTo(held[1] as number, 9);
    expect([...solve(pair(), Float64Array.of(0, 50), 0, -1e6)]).toEqual([0, 50]);
  });
});

it("keeps momentum and never adds energy, whatever is applied to a chain of wheels", () => {
  const inertia = [0.2, 0.05, 0.4, 0.1];
  const size = inertia.length;
  const mass = new Float64Array(size * size);
  inertia.forEach((j, i) => {
    mass[i * size + i] = j;
  });
  const massInverse = inverse(mass, size);
  const between = (a: number, b: number) => {
    const v = new Float64Array(size);
    v[a] = 1;
    v[b] = -1;
    return v;
  };
  const vectors = [between(0, 1), between(1, 2), between(2, 3), between(0, 3)];
  fc.assert(
    fc.property(
      fc.array(fc.double({ min: -300, max: 300, noNaN: true }), { minLength: size, maxLength: size }),
      fc.array(fc.double({ min: 0, max: 20, noNaN: true }), { minLength: 4, maxLength: 4 }),
      (start, capacity) => {
        const speeds = Float64Array.from(start);
        const momentum = () => speeds.reduce((s, v, i) => s + v * (inertia[i] as number), 0);
        const energy = () => speeds.reduce((s, v, i) => s + 0.5 * (inertia[i] as number) * v * v, 0);
        const [p, e] = [momentum(), energy()];
        const contacts = new Contacts(vectors, massInverse, size);
        contacts.solve(
          speeds,
          Float64Array.from(capacity, (c) => -c),
          Float64Array.from(capacity),
        );
        expect(momentum()).toBeCloseTo(p, 6);
        expect(energy()).toBeLessThanOrEqual(e + 1e-6);
        contacts.impulse.forEach((impulse, k) => {
          expect(Math.abs(impulse)).toBeLessThanOrEqual((capacity[k] as number) + 1e-12);
        });
      },
    ),
    // once failed: capacities next to nothing
    {
      examples: [
        [
          [0, 0, 5.357142857142858e-12, 0],
          [5e-324, 0, 5e-324, 5e-324],
        ],
      ],
      numRuns: 500,
    },
  );
});
