// Guards: a vehicle that comes again is offered by number, plate, owner or name, and not once it stands there.
import type { KnownVehicleView } from "@gearsense/contract";
import { expect, it } from "@jest/globals";
import { matchVehicles } from "./known-vehicles.ts";

const vehicle = (name: string, plate: string, owner: string, vin = ""): KnownVehicleView =>
  ({ id: name, name, plate, owner, vin, unitId: "u", odometerKm: 1, jobs: [] }) as KnownVehicleView;
const KNOWN = [
  vehicle("School minibus", "SK 5 540", "Northstead School", "11111111111111111"),
  vehicle("Quarry truck", "SK 7 001", "Quarry of Garth"),
  vehicle("Quarry pickup", "SK 7 002", "Quarry of Garth"),
  vehicle("Post van", "SK 7 100", "Island post"),
];
const hits = (patch: object) =>
  matchVehicles(KNOWN, { name: "", plate: "", owner: "", vin: "", ...patch }).map((v) => v.name);

it.each<[string, object, string[]]>([
  ["nothing typed", {}, []],
  ["two letters say nothing", { owner: "qu" }, []],
  ["an owner with two vehicles", { owner: "quarry" }, ["Quarry truck", "Quarry pickup"]],
  [
    "owner and name: the one that fits both stands first",
    { owner: "quarry", name: "Quarry p" },
    ["Quarry pickup", "Quarry truck"],
  ],
  ["a plate, however it is spaced", { plate: "sk-55" }, ["School minibus"]],
  ["the number goes before all else", { vin: "111111", owner: "Island" }, ["School minibus", "Post van"]],
  ["typed out already", { name: "Post van", plate: "SK 7 100", owner: "Island post" }, []],
])("%s", (_, typed, expected) => {
  expect(hits(typed)).toEqual(expected);
});
