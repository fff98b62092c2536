import { Link } from "react-router";
import { useSession } from "../api/queries.ts";
import { Backups } from "./Backups.tsx";
import { DevicePanel } from "./DevicePanel.tsx";
import { OwnPassword } from "./OwnPassword.tsx";
import { People } from "./People.tsx";
import { ReachPanel } from "./ReachPanel.tsx";
import { ShopForm } from "./ShopForm.tsx";
import { ShopTop } from "./ShopTop.tsx";

/** Who works here, what the shop is called and charges, one's own password. Only owners change more than the last. */
export default function ShopPage() {
  const { data: session } = useSession();
  const owner = session?.account.role === "owner";
  return (
    <>
      <ShopTop />
      <main className="mx-auto flex max-w-4xl flex-col gap-4 p-4">
        <div className="flex flex-wrap items-end justify-between gap-3">
          <h1 className="text-3xl">The shop</h1>
          <nav aria-label="Of the shop" className="flex flex-wrap gap-4">
            <Link className="label inline-flex min-h-11 items-center underline" to="/week">
              Lifts, hours and holidays
            </Link>
            <Link className="label inline-flex min-h-11 items-center underline" to="/shop/parts">
              Parts fitted
            </Link>
            {session?.account.role !== "viewer" && (
              <Link className="label inline-flex min-h-11 items-center underline" to="/shop/prices">
                Own prices and hours
              </Link>
            )}
            {owner && (
              <Link className="label inline-flex min-h-11 items-center underline" to="/shop/figures">
                Figures and money lines
              </Link>
            )}
          </nav>
        </div>
        {session && <OwnPassword name={session.account.name} />}
        <DevicePanel />
        <ShopForm mayChange={owner} />
        {owner && session ? (
          <>
            <People me={session.account.id} />
            <ReachPanel />
            <Backups shop={session.shop.name} />
          </>
        ) : (
          <p className="text-quiet">People are added and removed by an owner of the shop.</p>
        )}
      </main>
    </>
  );
}
