import { API } from "@gearsense/contract";
import { checkDefinition } from "@gearsense/core/log";
import type { LinkDefinition } from "@gearsense/link";
import type { ShopScope } from "../db/shop-scope.ts";
import { HttpError, notFound } from "../http/errors.ts";
import type { Mount } from "../http/mount.ts";
import { refuseWrongDefinition } from "../link/line.ts";
import { createDefinitionStore, createProfileStore } from "./store.ts";

/** How a shop reads the exports of its sources, and what stands where on a link. */
export function mountProfiles(mount: Mount, now: () => Date): void {
  mount(API.importProfiles, async ({ scope }) => (await createProfileStore(scope).all()) as never);
  mount(API.saveImportProfile, async ({ scope, body, who }) => {
    const [wrong] = body.definition ? checkDefinition(body.definition) : [];
    if (wrong)
      throw new HttpError(
        422,
        "bad-definition",
        `The channel definition is wrong at definition.${wrong.path}: ${wrong.reason}. Nothing was stored.`,
      );
    const store = createProfileStore(scope);
    await store.save(body, who.name, now());
    return (await store.all()) as never;
  });
  mount(API.dropImportProfile, async ({ scope, params }) => {
    if ((await createProfileStore(scope).drop(params.name)) === 0) throw notFound("import profile");
  });
  const definitions = async (scope: ShopScope) => ({ definitions: await createDefinitionStore(scope).all() });
  mount(API.linkDefinitions, ({ scope }) => definitions(scope));
  mount(API.saveLinkDefinition, async ({ scope, body, who }) => {
    refuseWrongDefinition(body as LinkDefinition);
    await createDefinitionStore(scope).save(body, who.name, now());
    return definitions(scope);
  });
  mount(API.dropLinkDefinition, async ({ scope, params }) => {
    if ((await createDefinitionStore(scope).drop(params.name)) === 0) throw notFound("link definition");
    return definitions(scope);
  });
}
