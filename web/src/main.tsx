import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { setNonce } from "get-nonce";
import { lazy, StrictMode, Suspense } from "react";
import { createRoot } from "react-dom/client";
import { createBrowserRouter, RouterProvider } from "react-router";
import { ApiError } from "./api/client";
import { Shell } from "./app/Shell";
import { SignIn } from "./app/SignIn";
import { Start } from "./app/Start";
import { SessionProvider, useSessionQuery } from "./app/session";
import { startPreferences } from "./ui/preferences";
import { ErrorNotice, ErrorPage, Loading, NotFound } from "./ui/states";
import "./styles.css";

startPreferences();
const nonce = document.querySelector<HTMLMetaElement>("meta[property=csp-nonce]")?.nonce;
if (nonce) setNonce(nonce);

const client = new QueryClient({
  defaultOptions: {
    queries: {
      retry: (n, e) => n < 2 && !(e instanceof ApiError && e.status >= 400 && e.status < 500),
      staleTime: 5_000,
    },
  },
});

const TodayPage = lazy(() => import("./today/TodayPage"));
const UsePage = lazy(() => import("./use/UsePage"));
const FleetPage = lazy(() => import("./fleet/FleetPage"));
const AccountPage = lazy(() => import("./people/AccountPage"));
const PeoplePage = lazy(() => import("./people/PeoplePage"));
const ShopPage = lazy(() => import("./shop/ShopPage"));
const ExportPage = lazy(() => import("./import/ExportPage"));
const MachinePage = lazy(() => import("./machine/MachinePage"));
const SeveralMachines = lazy(() => import("./machine/SeveralMachines"));
const NewMachine = lazy(() => import("./machine/NewMachine"));
const CompatibilityPage = lazy(() => import("./compatibility/CompatibilityPage"));
const VerdictPage = lazy(() => import("./compatibility/VerdictPage"));
const PlanPage = lazy(() => import("./compatibility/PlanPage"));
const KitPage = lazy(() => import("./kits/KitPage"));
const WorkPage = lazy(() => import("./work/WorkPage"));
const OrderPage = lazy(() => import("./work/OrderPage"));
const MaintenancePage = lazy(() => import("./maintenance/MaintenancePage"));
const PositionsPage = lazy(() => import("./machine/PositionsPage"));
const HistoryPage = lazy(() => import("./history/HistoryPage"));
const ComparePage = lazy(() => import("./history/ComparePage"));
const InspectionPage = lazy(() => import("./inspection/InspectionPage"));
const PartsPage = lazy(() => import("./parts/PartsPage"));
const PartPage = lazy(() => import("./parts/PartPage"));
const BuildsPage = lazy(() => import("./builds/BuildsPage"));
const BuildPage = lazy(() => import("./builds/BuildPage"));
const RunsPage = lazy(() => import("./builds/RunsPage"));
const WiresPage = lazy(() => import("./wiring/WiresPage"));
const LabelsPage = lazy(() => import("./labels/LabelsPage"));
const FaultsPage = lazy(() => import("./faults/FaultsPage"));
const CataloguePage = lazy(() => import("./catalogue/CataloguePage"));
const ImportPage = lazy(() => import("./import/ImportPage"));
const RecordPage = lazy(() => import("./history/RecordPage"));

const router = createBrowserRouter([
  {
    element: (
      <Gate>
        <Shell />
      </Gate>
    ),
    errorElement: <ErrorPage />,
    children: [
      {
        errorElement: <ErrorPage />,
        children: [
          { path: "/", element: <Start /> },
          { path: "/today", element: <Later of={<TodayPage />} /> },
          { path: "/use", element: <Later of={<UsePage />} /> },
          { path: "/fleet", element: <Later of={<FleetPage />} /> },
          { path: "/account", element: <Later of={<AccountPage />} /> },
          { path: "/people", element: <Later of={<PeoplePage />} /> },
          { path: "/shop", element: <Later of={<ShopPage />} /> },
          { path: "/export", element: <Later of={<ExportPage />} /> },
          { path: "/machine/new", element: <Later of={<NewMachine />} /> },
          { path: "/machine/several", element: <Later of={<SeveralMachines />} /> },
          { path: "/machine/:id", element: <Later of={<MachinePage />} /> },
          { path: "/ask", element: <Later of={<CompatibilityPage />} /> },
          { path: "/ask/:kit", element: <Later of={<CompatibilityPage />} /> },
          { path: "/ask/:kit/:id", element: <Later of={<VerdictPage />} /> },
          { path: "/plan", element: <Later of={<PlanPage />} /> },
          { path: "/kit/:key", element: <Later of={<KitPage />} /> },
          { path: "/work", element: <Later of={<WorkPage />} /> },
          { path: "/work/:id", element: <Later of={<OrderPage />} /> },
          { path: "/due", element: <Later of={<MaintenancePage />} /> },
          { path: "/machine/:id/positions", element: <Later of={<PositionsPage />} /> },
          { path: "/machine/:id/history", element: <Later of={<HistoryPage />} /> },
          { path: "/machine/:id/wires", element: <Later of={<WiresPage />} /> },
          { path: "/machine/:id/builds", element: <Later of={<RunsPage />} /> },
          { path: "/builds", element: <Later of={<BuildsPage />} /> },
          { path: "/build/:id", element: <Later of={<BuildPage />} /> },
          { path: "/compare", element: <Later of={<ComparePage />} /> },
          { path: "/identify", element: <Later of={<InspectionPage />} /> },
          { path: "/parts", element: <Later of={<PartsPage />} /> },
          { path: "/part/:id", element: <Later of={<PartPage />} /> },
          { path: "/labels", element: <Later of={<LabelsPage />} /> },
          { path: "/faults", element: <Later of={<FaultsPage />} /> },
          { path: "/catalogue", element: <Later of={<CataloguePage />} /> },
          { path: "/record", element: <Later of={<RecordPage />} /> },
          { path: "/import", element: <Later of={<ImportPage />} /> },
          { path: "*", element: <NotFound /> },
        ],
      },
    ],
  },
]);

function Later({ of }: { of: React.ReactNode }) {
  return <Suspense fallback={<Loading what="Opening the page" />}>{of}</Suspense>;
}

function Gate({ children }: { children: React.ReactNode }) {
  const session = useSessionQuery();
  if (session.isPending) return <Loading what="Asking who is signed in" />;
  if (session.isError) return <ErrorNotice error={session.error} again={() => session.refetch()} />;
  if (!session.data.signedIn) return <SignIn demo={session.data.demo} noAccounts={session.data.noAccounts} />;
  return <SessionProvider session={session.data}>{children}</SessionProvider>;
}

createRoot(document.getElementById("root") as HTMLElement).render(
  <StrictMode>
    <QueryClientProvider client={client}>
      <RouterProvider router={router} />
    </QueryClientProvider>
  </StrictMode>,
);
