import { lazy, Suspense, useEffect, useMemo, useState } from "react";
import { Navigate, NavLink, Route, Routes, useNavigate } from "react-router";
import { useOutbox } from "./api/outbox";
import { useShop } from "./api/useShop";
import { Gate } from "./people/Gate";
import { KeysOverlay } from "./people/KeysOverlay";
import { YoursOverlay } from "./people/YoursOverlay";
import { useMe } from "./settings/me";
import { useSettings } from "./settings/settings";
import { AREAS } from "./shop/areas";
import { Finder } from "./shop/Finder";
import { listed, say, sayMany } from "./texts/say";
import { Boundary } from "./ui/Boundary";
import { useHotkeys } from "./ui/keys";
import { ProblemOverlay } from "./ui/Problem";
import { Key } from "./ui/parts";

const JobPage = lazy(() => import("./stations/JobPage"));
const PressMode = lazy(() => import("./press-mode/PressMode"));
const ProofPage = lazy(() => import("./shop/proof/ProofPage"));
const LedgerPage = lazy(() => import("./shop/ledger/LedgerPage"));

export function App() {
  return (
    <Gate>
      <Suspense fallback={<p className="p-6 text-soft">{say("Opening…")}</p>}>
        <Routes>
          <Route
            path="/jobs/:id/press-mode"
            element={
              <Boundary what={say("Press mode")}>
                <PressMode />
              </Boundary>
            }
          />
          <Route
            path="*"
            element={
              <Boundary what={say("This page")}>
                <Desk />
              </Boundary>
            }
          />
        </Routes>
      </Suspense>
      <ProblemOverlay />
    </Gate>
  );
}

function Desk() {
  const navigate = useNavigate();
  const { theme, change } = useSettings();
  const [open, setOpen] = useState<"keys" | "yours" | "find" | null>(null);
  const keys = useMemo(
    () => ({
      "?": () => setOpen("keys"),
      ...Object.fromEntries(AREAS.map((area) => [area.hotkey, () => navigate(`/${area.path}`)])),
      y: () => setOpen("yours"),
      "/": () => setOpen("find"),
      t: () => change({ theme: theme === "light" ? "dark" : "light" }),
    }),
    [navigate, theme, change],
  );
  useHotkeys(keys);
  return (
    <div className="flex h-full min-h-0 flex-col">
      <Top onKeys={() => setOpen("keys")} onYours={() => setOpen("yours")} />
      <Waiting />
      <WrongClock />
      <Routes>
        <Route path="/" element={<Home />} />
        <Route path="/jobs/:id/:station?" element={<JobPage />} />
        <Route path="/jobs/:id/ledger" element={<LedgerPage />} />
        <Route path="/jobs/:id/proof" element={<ProofPage />} />
        {AREAS.map(({ path, more = "", Page }) => (
          <Route key={path} path={`/${path}${more}`} element={<Page />} />
        ))}
        <Route path="*" element={<p className="p-6">{say("There is nothing at this address. Press J for Jobs.")}</p>} />
      </Routes>
      <KeysOverlay open={open === "keys"} onClose={() => setOpen(null)} />
      <Finder open={open === "find"} onClose={() => setOpen(null)} />
      <YoursOverlay open={open === "yours"} onClose={() => setOpen(null)} />
    </div>
  );
}

/** The jobs; a shop that nothing stands in yet begins with its first day. */
function Home() {
  const { shop } = useShop();
  if (!shop) return <p className="p-6 text-soft">{say("Opening…")}</p>;
  const isNew = !shop.printers.length && !shop.presses.length && !shop.blanks.length;
  return <Navigate to={isNew ? "/first-day" : "/jobs"} replace />;
}

function Top({ onKeys, onYours }: { onKeys: () => void; onYours: () => void }) {
  const { shop } = useShop();
  const { length, heat } = useSettings();
  const me = useMe();
  const area = ({ isActive }: { isActive: boolean }) =>
    `rounded-md px-1.5 py-1 xl:px-2 2xl:px-3 ${isActive ? "bg-ground font-semibold text-ink" : "text-soft hover:text-ink"}`;
  return (
    <header className="flex h-12 shrink-0 items-center gap-3 border-b border-hair bg-panel px-4">
      <span className="text-[17px] font-extrabold">Offsetter</span>
      <nav aria-label={say("Areas")} className="flex xl:gap-1">
        {AREAS.filter((a) => !a.isAside).map((a) => (
          <NavLink key={a.path} to={`/${a.path}`} className={area}>
            {a.name}
          </NavLink>
        ))}
      </nav>
      <div className="ml-auto flex items-center gap-3 text-soft">
        <span className="hidden whitespace-nowrap 2xl:inline">{shop?.name}</span>
        <button
          type="button"
          onClick={onYours}
          className="rounded-full border border-hair2 bg-raise px-3 py-0.5 text-sm whitespace-nowrap text-ink"
        >
          {me.name} · °{heat} · {length}
        </button>
        <button type="button" onClick={onKeys} className="flex items-center gap-1.5 whitespace-nowrap">
          {say("Keys")} <Key>?</Key>
        </button>
      </div>
    </header>
  );
}

const CLOCKS_AGREE_S = 90;

/** A tablet whose clock is wrong: due times would look late or early on it. */
function WrongClock() {
  const { shop } = useShop();
  const off = shop?.aheadS ?? 0;
  if (Math.abs(off) < CLOCKS_AGREE_S) return null;
  const minutes = Math.round(Math.abs(off) / 60);
  return (
    <p role="status" className="border-b border-need bg-need-soft px-4 py-1.5 text-need">
      {off > 0
        ? say(
            "This screen's clock is {minutes} min ahead of the shop's. What is done here is recorded by the shop's clock; set this one right.",
            { minutes },
          )
        : say(
            "This screen's clock is {minutes} min behind the shop's. What is done here is recorded by the shop's clock; set this one right.",
            { minutes },
          )}
    </p>
  );
}

/** Said plainly while something waits for the shop's computer; half a second is a normal answer. */
function Waiting() {
  const { waiting, others } = useOutbox();
  const [isLong, setIsLong] = useState(false);
  const isWaiting = waiting > 0;
  useEffect(() => {
    setIsLong(false);
    if (!isWaiting) return;
    const late = setTimeout(() => setIsLong(true), 700);
    return () => clearTimeout(late);
  }, [isWaiting]);
  if (others.length > 0 && !isWaiting)
    return (
      <p role="status" className="border-b border-need bg-need-soft px-4 py-1.5 text-need">
        {others.length > 1
          ? say("What {names} did here waits in this browser until they sign in again.", { names: listed(others) })
          : say("What {name} did here waits in this browser until {name} signs in again.", { name: others[0] })}
      </p>
    );
  if (!isWaiting || !isLong) return null;
  return (
    <p role="status" className="border-b border-need bg-need-soft px-4 py-1.5 text-need">
      {sayMany(
        waiting,
        "One thing you did waits for the shop's computer: kept in this browser, sent when it answers.",
        "{count} things you did wait for the shop's computer: kept in this browser, sent when it answers.",
      )}
    </p>
  );
}
