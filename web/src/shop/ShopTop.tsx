import { Link } from "react-router";
import { useSession } from "../api/queries.ts";
import { TopBar } from "../shared/TopBar.tsx";

/** Above the pages of the shop: its name leads back to the board. */
export function ShopTop() {
  const { data: session } = useSession();
  return (
    <TopBar>
      <Link to="/" className="label text-xl">
        {session?.shop.name}
      </Link>
    </TopBar>
  );
}
