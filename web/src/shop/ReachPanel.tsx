import { QRCodeSVG } from "qrcode.react";
import { useState } from "react";
import { urlOf } from "../api/client.ts";
import { useReach } from "../api/shop-queries.ts";
import { Notice } from "../shared/controls.tsx";

/** How phones and tablets of the bay come in: the address to scan, and what the device will ask. */
export function ReachPanel() {
  const { data, error } = useReach(true);
  const [chosen, setChosen] = useState(0);
  const address = data?.addresses[chosen] ?? data?.addresses[0];
  return (
    <section aria-label="Phones and tablets" className="flex flex-col gap-3 border border-rule bg-panel p-4">
      <h2 className="text-xl">Phones and tablets</h2>
      {error && (
        <Notice tone="stop" live>
          {error.message}
        </Notice>
      )}
      {data?.loopback && (
        <p>
          Only this machine reaches Gearsense now. To let the devices of the bay in, stop it where it runs and start it
          with <code>./gearsense start --host 0.0.0.0</code>; this page then shows a code to scan. What to tick in the
          network’s and the machine’s settings stands in the README.
        </p>
      )}
      {data && address && !data.loopback && (
        <div className="flex flex-wrap items-start gap-6">
          {/* dark on light whatever the theme: a camera wants it so */}
          <QRCodeSVG
            value={address}
            size={208}
            marginSize={4}
            bgColor="#ffffff"
            fgColor="#000000"
            role="img"
            aria-label={`Code of ${address}`}
          />
          <div className="min-w-0 flex-1">
            <p>Scan it with a device in the shop’s own network, then sign in.</p>
            <ul>
              {data.addresses.map((a, i) => (
                <li key={a}>
                  <label className="flex min-h-11 items-center gap-3">
                    <input
                      type="radio"
                      name="address"
                      className="size-5"
                      checked={i === chosen}
                      onChange={() => setChosen(i)}
                    />
                    <span className="figures break-all">{a}</span>
                  </label>
                </li>
              ))}
            </ul>
            {data.ownCertificate && (
              <>
                <p>
                  The first time the device warns that it doesn’t know the certificate. Compare the fingerprint it shows
                  with this one, and go on only if they are the same:
                </p>
                <p className="figures my-1 text-sm break-all">{data.fingerprint}</p>
                <p>
                  To have no warning, and to work without a network, install the{" "}
                  <a className="underline" href={urlOf("certificate")} download>
                    certificate of this server
                  </a>{" "}
                  on the device as one that is trusted.
                </p>
              </>
            )}
          </div>
        </div>
      )}
    </section>
  );
}
