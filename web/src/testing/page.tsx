import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { cleanup, render } from "@testing-library/react";
import { userEvent } from "@testing-library/user-event";
import type { ReactNode } from "react";
import { MemoryRouter, useLocation } from "react-router";
import { SettingsProvider } from "../settings/settings.tsx";

function Where() {
  return <output data-testid="where">{useLocation().pathname}</output>;
}

/** Shows a component as it stands in the application, and a person before it. Clean up by `cleanup` after each test. */
export function shown(what: ReactNode) {
  const client = new QueryClient({ defaultOptions: { queries: { retry: false } } });
  const user = userEvent.setup();
  const page = render(
    <SettingsProvider>
      <QueryClientProvider client={client}>
        <MemoryRouter>
          {what}
          <Where />
        </MemoryRouter>
      </QueryClientProvider>
    </SettingsProvider>,
  );
  return { user, ...page };
}
export { cleanup };
