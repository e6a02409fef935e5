import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { setNonce } from "get-nonce";
import { lazy, StrictMode, Suspense } from "react";
import { createRoot } from "react-dom/client";
import { createBrowserRouter, RouterProvider } from "react-router";
import { ApiError } from "./api/client";
import { ByRole } from "./app/ByRole";
import { Shell } from "./app/Shell";
import { SignIn } from "./app/SignIn";
import { Start } from "./app/Start";
import { startPreferences } from "./ui/preferences";
import { SessionProvider, useSessionQuery } from "./ui/session";
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
      networkMode: "always", // what is kept on this device answers without a connection
    },
  },
});

const TodayPage = lazy(() => import("./features/today/TodayPage"));
const CalendarPage = lazy(() => import("./features/calendar/CalendarPage"));
const BookingsPage = lazy(() => import("./features/bookings/BookingsPage"));
const WeeksPage = lazy(() => import("./features/weeks/WeeksPage"));
const PlanningPage = lazy(() => import("./features/planning/PlanningPage"));
const ReliabilityPage = lazy(() => import("./features/reliability/ReliabilityPage"));
const SparesPage = lazy(() => import("./features/spares/SparesPage"));
const UsePage = lazy(() => import("./features/use/UsePage"));
const MachineUse = lazy(() => import("./features/use/MachineUse"));
const FleetPage = lazy(() => import("./features/fleet/FleetPage"));
const AccountPage = lazy(() => import("./features/people/AccountPage"));
const PeoplePage = lazy(() => import("./features/people/PeoplePage"));
const TokensPage = lazy(() => import("./features/people/TokensPage"));
const ShopPage = lazy(() => import("./features/shop/ShopPage"));
const ExportPage = lazy(() => import("./features/import/ExportPage"));
const MachinePage = lazy(() => import("./features/machine/MachinePage"));
const SeveralMachines = lazy(() => import("./features/machine/SeveralMachines"));
const NewMachine = lazy(() => import("./features/machine/NewMachine"));
const CompatibilityPage = lazy(() => import("./features/compatibility/CompatibilityPage"));
const VerdictPage = lazy(() => import("./features/compatibility/VerdictPage"));
const PlanPage = lazy(() => import("./features/compatibility/PlanPage"));
const KitPage = lazy(() => import("./features/kits/KitPage"));
const WorkPage = lazy(() => import("./features/work/WorkPage"));
const TagPage = lazy(() => import("./features/work/TagPage"));
const BatchPage = lazy(() => import("./features/work/BatchPage"));
const OrderPage = lazy(() => import("./features/work/OrderPage"));
const MaintenancePage = lazy(() => import("./features/maintenance/MaintenancePage"));
const TasksPage = lazy(() => import("./features/maintenance/TasksPage"));
const CalibrationCard = lazy(() => import("./features/machine/CalibrationCard"));
const PositionsPage = lazy(() => import("./features/machine/PositionsPage"));
const HistoryPage = lazy(() => import("./features/history/HistoryPage"));
const ComparePage = lazy(() => import("./features/history/ComparePage"));
const InspectionPage = lazy(() => import("./features/inspection/InspectionPage"));
const PartsPage = lazy(() => import("./features/parts/PartsPage"));
const PurchasesPage = lazy(() => import("./features/purchases/PurchasesPage"));
const PurchasePage = lazy(() => import("./features/purchases/PurchasePage"));
const LotPage = lazy(() => import("./features/parts/LotPage"));
const BenchPage = lazy(() => import("./features/bench/BenchPage"));
const CalibrationsPage = lazy(() => import("./features/calibrations/CalibrationsPage"));
const SafetyPage = lazy(() => import("./features/safety/SafetyPage"));
const PartPage = lazy(() => import("./features/parts/PartPage"));
const BuildsPage = lazy(() => import("./features/builds/BuildsPage"));
const BuildPage = lazy(() => import("./features/builds/BuildPage"));
const RunsPage = lazy(() => import("./features/builds/RunsPage"));
const FirmwarePage = lazy(() => import("./features/firmware/FirmwarePage"));
const CarryOverPage = lazy(() => import("./features/firmware/CarryOverPage"));
const SettingsPage = lazy(() => import("./features/settings/SettingsPage"));
const SettingsFilePage = lazy(() => import("./features/settings/SettingsFilePage"));
const DriftPage = lazy(() => import("./features/settings/DriftPage"));
const WordsPage = lazy(() => import("./features/settings/WordsPage"));
const FilesPage = lazy(() => import("./features/files/FilesPage"));
const FilePage = lazy(() => import("./features/files/FilePage"));
const WiresPage = lazy(() => import("./features/wiring/WiresPage"));
const LabelsPage = lazy(() => import("./features/labels/LabelsPage"));
const FaultsPage = lazy(() => import("./features/faults/FaultsPage"));
const CataloguePage = lazy(() => import("./features/catalogue/CataloguePage"));
const ImportPage = lazy(() => import("./features/import/ImportPage"));
const RecordPage = lazy(() => import("./features/history/RecordPage"));

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
          { path: "/calendar", element: <Later of={<CalendarPage />} /> },
          { path: "/bookings", element: <Later of={<BookingsPage />} /> },
          { path: "/weeks", element: <Later of={<WeeksPage />} /> },
          { path: "/planning", element: <Later of={<PlanningPage />} /> },
          { path: "/reliability", element: <Later of={<ReliabilityPage />} /> },
          { path: "/spares", element: <Later of={<SparesPage />} /> },
          { path: "/use", element: <Later of={<UsePage />} /> },
          { path: "/fleet", element: <Later of={<FleetPage />} /> },
          { path: "/account", element: <Later of={<AccountPage />} /> },
          { path: "/people", element: <Later of={<PeoplePage />} /> },
          { path: "/tokens", element: <Later of={<TokensPage />} /> },
          { path: "/shop", element: <Later of={<ShopPage />} /> },
          { path: "/export", element: <Later of={<ExportPage />} /> },
          { path: "/machine/new", element: <Later of={<NewMachine />} /> },
          { path: "/machine/several", element: <Later of={<SeveralMachines />} /> },
          { path: "/machine/:id", element: <Later of={<ByRole member={<MachineUse />} staff={<MachinePage />} />} /> },
          { path: "/ask", element: <Later of={<CompatibilityPage />} /> },
          { path: "/ask/:kit", element: <Later of={<CompatibilityPage />} /> },
          { path: "/ask/:kit/:id", element: <Later of={<VerdictPage />} /> },
          { path: "/plan", element: <Later of={<PlanPage />} /> },
          { path: "/kit/:key", element: <Later of={<KitPage />} /> },
          { path: "/work", element: <Later of={<WorkPage />} /> },
          { path: "/work/batch/:id", element: <Later of={<BatchPage />} /> },
          { path: "/work/:id", element: <Later of={<OrderPage />} /> },
          { path: "/work/:id/tag", element: <Later of={<TagPage />} /> },
          { path: "/due", element: <Later of={<MaintenancePage />} /> },
          { path: "/tasks", element: <Later of={<TasksPage />} /> },
          { path: "/machine/:id/card", element: <Later of={<CalibrationCard />} /> },
          { path: "/machine/:id/positions", element: <Later of={<PositionsPage />} /> },
          { path: "/machine/:id/history", element: <Later of={<HistoryPage />} /> },
          { path: "/machine/:id/wires", element: <Later of={<WiresPage />} /> },
          { path: "/machine/:id/builds", element: <Later of={<RunsPage />} /> },
          { path: "/machine/:id/firmware", element: <Later of={<FirmwarePage />} /> },
          { path: "/machine/:id/settings", element: <Later of={<SettingsPage />} /> },
          { path: "/settings-file/:id", element: <Later of={<SettingsFilePage />} /> },
          { path: "/drift", element: <Later of={<DriftPage />} /> },
          { path: "/words", element: <Later of={<WordsPage />} /> },
          { path: "/carry-over", element: <Later of={<CarryOverPage />} /> },
          { path: "/files", element: <Later of={<FilesPage />} /> },
          { path: "/file/:id", element: <Later of={<FilePage />} /> },
          { path: "/builds", element: <Later of={<BuildsPage />} /> },
          { path: "/build/:id", element: <Later of={<BuildPage />} /> },
          { path: "/compare", element: <Later of={<ComparePage />} /> },
          { path: "/identify", element: <Later of={<InspectionPage />} /> },
          { path: "/parts", element: <Later of={<PartsPage />} /> },
          { path: "/part/:id", element: <Later of={<PartPage />} /> },
          { path: "/purchases", element: <Later of={<PurchasesPage />} /> },
          { path: "/purchase/:id", element: <Later of={<PurchasePage />} /> },
          { path: "/bench", element: <Later of={<BenchPage />} /> },
          { path: "/bench/:name", element: <Later of={<BenchPage />} /> },
          { path: "/calibrations", element: <Later of={<CalibrationsPage />} /> },
          { path: "/safety", element: <Later of={<SafetyPage />} /> },
          { path: "/lot", element: <Later of={<LotPage />} /> },
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
