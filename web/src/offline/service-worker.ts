// Keeps the application and the answers of the server for times without a network. The network always comes first: what is kept is shown
// only when no answer comes, and says when it was kept.
import { ROUTES } from "@gearsense/contract/routes";
import { ExpirationPlugin } from "workbox-expiration";
import { matchPrecache, precacheAndRoute } from "workbox-precaching";
import { NavigationRoute, registerRoute } from "workbox-routing";
import { NetworkFirst, type StrategyOptions } from "workbox-strategies";
import { KEPT_HEADER } from "../api/network.ts";
import { ANSWERS, keepsAnswer, SAYS_GO_ON } from "./kept.ts";

declare const __FILES__: readonly { url: string; revision: string | null }[];
type WorkboxPlugin = NonNullable<StrategyOptions["plugins"]>[number];
const scope = self as unknown as ServiceWorkerGlobalScope;
const MOST_ANSWERS = 800;
/** In the cache of answers: whose they are. */
const WHOSE = "/kept-for";

precacheAndRoute([...__FILES__], { directoryIndex: null as never, cleanURLs: false });
scope.addEventListener("activate", (e) => e.waitUntil(scope.clients.claim()));
scope.addEventListener("message", (e) => {
  if (e.data === SAYS_GO_ON) void scope.skipWaiting();
});

registerRoute(
  new NavigationRoute(
    async ({ request }) => {
      try {
        return await fetch(request);
      } catch {
        return (await matchPrecache("/index.html")) ?? Response.error();
      }
    },
    { denylist: [/^\/api\//] },
  ),
);

const answers = new NetworkFirst({
  cacheName: ANSWERS,
  plugins: [
    {
      cacheWillUpdate: async ({ response }) =>
        response.status === 200 && /^(application\/json|image\/)/.test(response.headers.get("content-type") ?? "")
          ? response
          : null,
      cachedResponseWillBeUsed: async ({ cachedResponse }) => {
        if (!cachedResponse) return cachedResponse;
        const headers = new Headers(cachedResponse.headers);
        headers.set(KEPT_HEADER, headers.get("date") ?? new Date(0).toUTCString());
        return new Response(cachedResponse.body, { status: 200, headers });
      },
    },
    // its types leave callbacks out by undefined
    new ExpirationPlugin({ maxEntries: MOST_ANSWERS }) as unknown as WorkboxPlugin,
  ],
});

/** What was kept for one person is nobody else's to see. */
async function keepFor(account: string): Promise<void> {
  const kept = await (await (await caches.open(ANSWERS)).match(WHOSE))?.text();
  if (kept === account) return;
  // what is there with no name was asked for beside this very question
  if (kept !== undefined) await caches.delete(ANSWERS);
  await (await caches.open(ANSWERS)).put(WHOSE, new Response(account));
}

const isSession = (url: URL) => url.pathname === ROUTES.session.path;
registerRoute(
  ({ url, sameOrigin }) => sameOrigin && isSession(url),
  async ({ request, event }) => {
    let response: Response;
    try {
      response = await fetch(request.clone());
    } catch {
      return answers.handle({ request, event });
    }
    if (response.status === 401) await caches.delete(ANSWERS);
    if (!response.ok) return response;
    const { account } = (await response.clone().json()) as { account: { id: string } };
    await keepFor(account.id);
    await (await caches.open(ANSWERS)).put(request, response.clone());
    return response;
  },
);
for (const method of ["POST", "DELETE"] as const)
  registerRoute(
    ({ url, sameOrigin }) => sameOrigin && isSession(url),
    async ({ request }) => {
      const response = await fetch(request);
      if (response.ok) await caches.delete(ANSWERS);
      return response;
    },
    method,
  );
registerRoute(({ url, sameOrigin }) => sameOrigin && keepsAnswer(url.pathname), answers);
