/** The frame around every screen, and the way to each. */
import { lazy, Suspense, useEffect } from "react";
import { Link, Navigate, NavLink, Route, Routes, useLocation, useParams } from "react-router";
import { setPerson } from "./api/client";
import { useDoor } from "./api/door";
import { STAGES, useShop, useToday, type Stage } from "./api/queries";
import { useSending } from "./parts/queue";
import { Reached, useReach } from "./parts/Reached";
import { FindField } from "./parts/FindField";
import { Help } from "./parts/Help";
import { LostPress } from "./parts/LostPress";
import { Waiting } from "./parts/controls";
import { Ringing } from "./parts/Ringing";
import { useReminders } from "./parts/useReminders";
import { nextStage, Straightedge } from "./parts/Straightedge";
import { Today } from "./stages/today/Today";
import { PairPage } from "./stages/today/PairPage";

const ShopPage = lazy(() => import("./stages/shop/ShopPage"));
const FindPage = lazy(() => import("./stages/today/FindPage"));
const ForeignTable = lazy(() => import("./stages/today/ForeignTable"));
const Guide = lazy(() => import("./stages/glue/Guide"));
const Labels = lazy(() => import("./stages/cut/Labels"));
const TestingSheet = lazy(() => import("./stages/break/TestingSheet"));
const CautionsPage = lazy(() => import("./stages/break/CautionsPage"));
const BenchSheet = lazy(() => import("./stages/glue/BenchSheet"));
const SCREENS: Record<Stage, React.LazyExoticComponent<React.ComponentType<{ batch: number }>>> = {
  plan: lazy(() => import("./stages/plan/PlanStage")),
  cut: lazy(() => import("./stages/cut/CutStage")),
  glue: lazy(() => import("./stages/glue/GlueStage")),
  break: lazy(() => import("./stages/break/BreakStage")),
  compare: lazy(() => import("./stages/compare/CompareStage")),
};

const NOTHING: readonly never[] = [];
const TAB = "px-2 py-1 text-lg border-b-3";
const link = ({ isActive }: { isActive: boolean }) =>
  isActive ? `${TAB} border-spruce font-semibold` : `${TAB} border-transparent hover:border-rule`;

/** Who is not let in sees the door; the work, whoever is. */
export function App() {
  const { data: door, error } = useDoor();
  const { shutOut } = useReach();
  if (shutOut || door?.admitted === false) return <PairPage />;
  if (!door && !error) return <Waiting what="the shop" />;
  return <Work />;
}

function Work() {
  useSending();
  const { data: shop } = useShop();
  const { data: today } = useToday();
  useReminders(today?.due ?? NOTHING);
  const place = useLocation();
  useEffect(() => setPerson(shop?.person ?? ""), [shop?.person]);
  useEffect(() => {
    document.getElementById("main")?.focus({ preventScroll: true });
  }, [place.pathname]);
  return (
    <>
      <a
        href="#main"
        className="sr-only focus:not-sr-only focus:absolute focus:z-50 focus:bg-sheet focus:p-3"
      >
        Skip to the work
      </a>
      <header className="no-print border-b border-rule">
        <div className="mx-auto flex max-w-7xl flex-wrap items-baseline gap-x-5 px-4 pt-3 sm:px-6">
          <Link to="/" className="flex items-center gap-2 text-xl font-bold tracking-tight">
            <img src="/icon.svg" alt="" width="26" height="26" />
            Adhaero
          </Link>
          <nav aria-label="Main" className="flex gap-3">
            <NavLink to="/" end className={link}>
              Today
            </NavLink>
            <NavLink to="/shop" className={link}>
              Shop
            </NavLink>
          </nav>
          <FindField />
          <Help />
          <span className="hidden truncate text-sm text-faded sm:block">{shop?.person}</span>
        </div>
      </header>
      <Reached />
      <LostPress />
      <Ringing due={today?.due ?? NOTHING} />
      <main id="main" tabIndex={-1} className="mx-auto max-w-7xl px-4 py-4 outline-none sm:px-6">
        <Suspense fallback={<Waiting what="the screen" />}>
          <Routes>
            <Route path="/" element={<Today />} />
            <Route path="/pair" element={<Navigate replace to="/" />} />
            <Route path="/shop" element={<ShopPage />} />
            <Route path="/table" element={<ForeignTable />} />
            <Route path="/find" element={<FindPage />} />
            <Route path="/batch/:id" element={<BatchPage />} />
            <Route path="/batch/:id/labels" element={<Labels />} />
            <Route path="/batch/:id/bench-sheet" element={<BenchSheet />} />
            <Route path="/batch/:id/testing-sheet" element={<TestingSheet />} />
            <Route path="/batch/:id/cautions" element={<CautionsPage />} />
            <Route path="/batch/:id/bench" element={<Guide />} />
            <Route path="/batch/:id/:stage" element={<BatchPage />} />
            <Route path="*" element={<Lost />} />
          </Routes>
        </Suspense>
      </main>
    </>
  );
}

function BatchPage() {
  const { id, stage } = useParams();
  const { data, isPending } = useToday();
  if (isPending) return <Waiting what="the batch" />;
  const progress = data?.batches.find((p) => p.batch.id === Number(id));
  if (!progress) return <Lost />;
  if (!stage || !STAGES.includes(stage as Stage))
    return <Navigate replace to={`/batch/${progress.batch.id}/${nextStage(progress)}`} />;
  const Screen = SCREENS[stage as Stage];
  return (
    <>
      <h1 className="mb-2 text-2xl font-bold wrap-anywhere">{progress.batch.name}</h1>
      <Straightedge progress={progress} />
      <div className="pt-4">
        <Suspense fallback={<Waiting what="the stage" />}>
          <Screen key={progress.batch.id} batch={progress.batch.id} />
        </Suspense>
      </div>
    </>
  );
}

function Lost() {
  return (
    <div className="py-16 text-center">
      <h1 className="text-2xl font-bold">There is nothing here</h1>
      <p className="mt-2">
        <Link className="text-spruce underline" to="/">
          Back to today
        </Link>
      </p>
    </div>
  );
}
