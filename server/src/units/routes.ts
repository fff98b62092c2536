import { API, publishedSchema, UnitFile } from "@gearsense/contract";
import type { Unit } from "@gearsense/core/unit";
import { notFound } from "../http/errors.ts";
import type { Mount } from "../http/mount.ts";
import type { UnitService } from "./service.ts";

export function mountUnits(mount: Mount, units: UnitService): void {
  const schema = publishedSchema(UnitFile, "Gearsense unit file");
  mount(API.units, async ({ scope }) => (await units(scope).all()) as never);
  mount(
    API.saveUnit,
    async ({ scope, body, who }) => (await units(scope).save(body.unit as Unit, body.baseVersion, who)) as never,
  );
  mount(API.unitVersions, ({ scope, params }) => units(scope).versions(params.unit));
  mount(API.unitVersion, async ({ scope, params }) => {
    const version = Number(params.version);
    if (!Number.isInteger(version)) throw notFound("version of this unit");
    return (await units(scope).version(params.unit, version)) as never;
  });
  mount(API.unitSchema, async () => schema);
}
