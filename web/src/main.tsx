import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { setNonce } from "get-nonce";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { createBrowserRouter, RouterProvider } from "react-router";
import { ApiError } from "./api/client";
import { ByRole } from "./app/ByRole";
import { later } from "./app/later";
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

const TodayPage = later(() => import("./features/today/TodayPage"));
const CalendarPage = later(() => import("./features/calendar/CalendarPage"));
const BookingsPage = later(() => import("./features/bookings/BookingsPage"));
const WeeksPage = later(() => import("./features/weeks/WeeksPage"));
const PlanningPage = later(() => import("./features/planning/PlanningPage"));
const ReliabilityPage = later(() => import("./features/reliability/ReliabilityPage"));
const SparesPage = later(() => import("./features/spares/SparesPage"));
const UsePage = later(() => import("./features/use/UsePage"));
const MachineUse = later(() => import("./features/use/MachineUse"));
const FleetPage = later(() => import("./features/fleet/FleetPage"));
const AccountPage = later(() => import("./features/people/AccountPage"));
const PeoplePage = later(() => import("./features/people/PeoplePage"));
const TokensPage = later(() => import("./features/people/TokensPage"));
const ShopPage = later(() => import("./features/shop/ShopPage"));
const ExportPage = later(() => import("./features/import/ExportPage"));
const MachinePage = later(() => import("./features/machine/MachinePage"));
const SeveralMachines = later(() => import("./features/machine/SeveralMachines"));
const NewMachine = later(() => import("./features/machine/NewMachine"));
const CompatibilityPage = later(() => import("./features/compatibility/CompatibilityPage"));
const VerdictPage = later(() => import("./features/compatibility/VerdictPage"));
const PlanPage = later(() => import("./features/compatibility/PlanPage"));
const KitPage = later(() => import("./features/kits/KitPage"));
const WorkPage = later(() => import("./features/work/WorkPage"));
const TagPage = later(() => import("./features/work/TagPage"));
const BatchPage = later(() => import("./features/work/BatchPage"));
const OrderPage = later(() => import("./features/work/OrderPage"));
const MaintenancePage = later(() => import("./features/maintenance/MaintenancePage"));
const TasksPage = later(() => import("./features/maintenance/TasksPage"));
const CalibrationCard = later(() => import("./features/machine/CalibrationCard"));
const PositionsPage = later(() => import("./features/machine/PositionsPage"));
const HistoryPage = later(() => import("./features/history/HistoryPage"));
const ComparePage = later(() => import("./features/history/ComparePage"));
const InspectionPage = later(() => import("./features/inspection/InspectionPage"));
const PartsPage = later(() => import("./features/parts/PartsPage"));
const PurchasesPage = later(() => import("./features/purchases/PurchasesPage"));
const PurchasePage = later(() => import("./features/purchases/PurchasePage"));
const LotPage = later(() => import("./features/parts/LotPage"));
const BenchPage = later(() => import("./features/bench/BenchPage"));
const CalibrationsPage = later(() => import("./features/calibrations/CalibrationsPage"));
const SafetyPage = later(() => import("./features/safety/SafetyPage"));
const PartPage = later(() => import("./features/parts/PartPage"));
const BuildsPage = later(() => import("./features/builds/BuildsPage"));
const BuildPage = later(() => import("./features/builds/BuildPage"));
const RunsPage = later(() => import("./features/builds/RunsPage"));
const FirmwarePage = later(() => import("./features/firmware/FirmwarePage"));
const CarryOverPage = later(() => import("./features/firmware/CarryOverPage"));
const SettingsPage = later(() => import("./features/settings/SettingsPage"));
const SettingsFilePage = later(() => import("./features/settings/SettingsFilePage"));
const DriftPage = later(() => import("./features/settings/DriftPage"));
const WordsPage = later(() => import("./features/settings/WordsPage"));
const FilesPage = later(() => import("./features/files/FilesPage"));
const FilePage = later(() => import("./features/files/FilePage"));
const WiresPage = later(() => import("./features/wiring/WiresPage"));
const LabelsPage = later(() => import("./features/labels/LabelsPage"));
const FaultsPage = later(() => import("./features/faults/FaultsPage"));
const CataloguePage = later(() => import("./features/catalogue/CataloguePage"));
const ImportPage = later(() => import("./features/import/ImportPage"));
const RecordPage = later(() => import("./features/history/RecordPage"));

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
          { path: "/today", element: <TodayPage /> },
          { path: "/calendar", element: <CalendarPage /> },
          { path: "/bookings", element: <BookingsPage /> },
          { path: "/weeks", element: <WeeksPage /> },
          { path: "/planning", element: <PlanningPage /> },
          { path: "/reliability", element: <ReliabilityPage /> },
          { path: "/spares", element: <SparesPage /> },
          { path: "/use", element: <UsePage /> },
          { path: "/fleet", element: <FleetPage /> },
          { path: "/account", element: <AccountPage /> },
          { path: "/people", element: <PeoplePage /> },
          { path: "/tokens", element: <TokensPage /> },
          { path: "/shop", element: <ShopPage /> },
          { path: "/export", element: <ExportPage /> },
          { path: "/machine/new", element: <NewMachine /> },
          { path: "/machine/several", element: <SeveralMachines /> },
          { path: "/machine/:id", element: <ByRole member={<MachineUse />} staff={<MachinePage />} /> },
          { path: "/ask", element: <CompatibilityPage /> },
          { path: "/ask/:kit", element: <CompatibilityPage /> },
          { path: "/ask/:kit/:id", element: <VerdictPage /> },
          { path: "/plan", element: <PlanPage /> },
          { path: "/kit/:key", element: <KitPage /> },
          { path: "/work", element: <WorkPage /> },
          { path: "/work/batch/:id", element: <BatchPage /> },
          { path: "/work/:id", element: <OrderPage /> },
          { path: "/work/:id/tag", element: <TagPage /> },
          { path: "/due", element: <MaintenancePage /> },
          { path: "/tasks", element: <TasksPage /> },
          { path: "/machine/:id/card", element: <CalibrationCard /> },
          { path: "/machine/:id/positions", element: <PositionsPage /> },
          { path: "/machine/:id/history", element: <HistoryPage /> },
          { path: "/machine/:id/wires", element: <WiresPage /> },
          { path: "/machine/:id/builds", element: <RunsPage /> },
          { path: "/machine/:id/firmware", element: <FirmwarePage /> },
          { path: "/machine/:id/settings", element: <SettingsPage /> },
          { path: "/settings-file/:id", element: <SettingsFilePage /> },
          { path: "/drift", element: <DriftPage /> },
          { path: "/words", element: <WordsPage /> },
          { path: "/carry-over", element: <CarryOverPage /> },
          { path: "/files", element: <FilesPage /> },
          { path: "/file/:id", element: <FilePage /> },
          { path: "/builds", element: <BuildsPage /> },
          { path: "/build/:id", element: <BuildPage /> },
          { path: "/compare", element: <ComparePage /> },
          { path: "/identify", element: <InspectionPage /> },
          { path: "/parts", element: <PartsPage /> },
          { path: "/part/:id", element: <PartPage /> },
          { path: "/purchases", element: <PurchasesPage /> },
          { path: "/purchase/:id", element: <PurchasePage /> },
          { path: "/bench", element: <BenchPage /> },
          { path: "/bench/:name", element: <BenchPage /> },
          { path: "/calibrations", element: <CalibrationsPage /> },
          { path: "/safety", element: <SafetyPage /> },
          { path: "/lot", element: <LotPage /> },
          { path: "/labels", element: <LabelsPage /> },
          { path: "/faults", element: <FaultsPage /> },
          { path: "/catalogue", element: <CataloguePage /> },
          { path: "/record", element: <RecordPage /> },
          { path: "/import", element: <ImportPage /> },
          { path: "*", element: <NotFound /> },
        ],
      },
    ],
  },
]);

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
