import { useQuery, useQueryClient } from "@tanstack/react-query";
import { DropdownMenu } from "radix-ui";
import { type ComponentType, lazy, Suspense, useState } from "react";
import { Link, Redirect, Route, Switch, useLocation } from "wouter";
import { api } from "./api";
import { OverviewPage } from "./pages/overview";
import { SignInPage } from "./pages/sign-in";
import { SectionPages } from "./parts/section-pages";
import { type Section, sectionOf, sections } from "./sections";
import { Failure, Loading } from "./ui/panel";
import { count } from "./words";

/** A page that is loaded when it is opened first. */
function page<Props>(load: () => Promise<ComponentType<Props>>) {
  return lazy(async () => ({ default: await load() }));
}

const AccessPage = page(async () => (await import("./pages/access")).AccessPage);
const AlarmsPage = page(async () => (await import("./pages/alarms")).AlarmsPage);
const BalancePage = page(async () => (await import("./pages/balance")).BalancePage);
const ConnectionsPage = page(async () => (await import("./pages/connections")).ConnectionsPage);
const DeadPage = page(async () => (await import("./pages/dead")).DeadPage);
const DevicePage = page(async () => (await import("./pages/device")).DevicePage);
const DevicesPage = page(async () => (await import("./pages/devices")).DevicesPage);
const IncidentPage = page(async () => (await import("./pages/incident")).IncidentPage);
const IncidentsPage = page(async () => (await import("./pages/incidents")).IncidentsPage);
const InletsPage = page(async () => (await import("./pages/inlets")).InletsPage);
const JobsPage = page(async () => (await import("./pages/jobs")).JobsPage);
const LanePage = page(async () => (await import("./pages/lane")).LanePage);
const LanesPage = page(async () => (await import("./pages/lanes")).LanesPage);
const LookoutsPage = page(async () => (await import("./pages/lookouts")).LookoutsPage);
const LookupsPage = page(async () => (await import("./pages/lookups")).LookupsPage);
const MessagesPage = page(async () => (await import("./pages/messages")).MessagesPage);
const ModelsPage = page(async () => (await import("./pages/models")).ModelsPage);
const OutletsPage = page(async () => (await import("./pages/outlets")).OutletsPage);
const SetupPage = page(async () => (await import("./pages/setup")).SetupPage);
const StoragePage = page(async () => (await import("./pages/storage")).StoragePage);
const TracePage = page(async () => (await import("./pages/trace")).TracePage);

export function App() {
  const session = useQuery({ queryKey: ["session"], queryFn: api.session });
  if (session.isError) return <Failure error={session.error} />;
  if (!session.data) return null;
  if (!session.data.name) return <SignInPage />;
  return <Signed name={session.data.name} />;
}

function Signed({ name }: { name: string }) {
  return (
    <div className="min-h-screen">
      <a
        href="#main"
        className="absolute -top-20 left-2 z-30 rounded bg-accent px-3 py-1 text-on-accent focus:top-2"
      >
        Skip to content
      </a>
      <Top name={name} />
      <main id="main" className="mx-auto max-w-[1440px] px-5 py-5">
        <SectionPages />
        <Suspense fallback={<Loading />}>
          <Switch>
            <Route path="/overview" component={OverviewPage} />
            <Route path="/messages" component={MessagesPage} />
            <Route path="/messages/:id">{({ id }) => <TracePage id={id} />}</Route>
            <Route path="/lanes" component={LanesPage} />
            <Route path="/lanes/:name">{({ name }) => <LanePage name={name} />}</Route>
            <Route path="/inlets">{() => <InletsPage />}</Route>
            <Route path="/inlets/:name">{({ name }) => <InletsPage name={name} />}</Route>
            <Route path="/connections">{() => <ConnectionsPage />}</Route>
            <Route path="/connections/:name">{({ name }) => <ConnectionsPage name={name} />}</Route>
            <Route path="/outlets">{() => <OutletsPage />}</Route>
            <Route path="/outlets/:name">{({ name }) => <OutletsPage name={name} />}</Route>
            <Route path="/setup" component={SetupPage} />
            <Route path="/lookups" component={LookupsPage} />
            <Route path="/access" component={AccessPage} />
            <Route path="/storage" component={StoragePage} />
            <Route path="/devices" component={DevicesPage} />
            <Route path="/devices/:key">
              {({ key }) => <DevicePage key={key} device={decodeURIComponent(key)} />}
            </Route>
            <Route path="/models">{() => <ModelsPage />}</Route>
            <Route path="/models/:name">{({ name }) => <ModelsPage name={name} />}</Route>
            <Route path="/dead" component={DeadPage} />
            <Route path="/alarms">{() => <AlarmsPage />}</Route>
            <Route path="/alarms/:number">{({ number }) => <AlarmsPage number={number} />}</Route>
            <Route path="/lookouts">{() => <LookoutsPage />}</Route>
            <Route path="/lookouts/:name">
              {({ name }) => <LookoutsPage name={decodeURIComponent(name)} />}
            </Route>
            <Route path="/balance" component={BalancePage} />
            <Route path="/incidents" component={IncidentsPage} />
            <Route path="/incidents/:number">
              {({ number }) => <IncidentPage key={number} number={number} />}
            </Route>
            <Route path="/jobs" component={JobsPage} />
            <Route>
              <Redirect to="/overview" replace />
            </Route>
          </Switch>
        </Suspense>
      </main>
    </div>
  );
}

function Top({ name }: { name: string }) {
  const overview = useQuery({ queryKey: ["overview"], queryFn: api.overview, refetchInterval: 2000 });
  const badges: Record<string, number | undefined> = {
    Alarms: overview.data?.alarms,
    Repair: overview.data?.dead,
  };
  return (
    <header className="sticky top-0 z-10 border-b border-rule bg-sheet">
      <div className="mx-auto flex h-12 max-w-[1440px] items-center gap-6 px-5">
        <Link href="/overview" className="flex items-center gap-2 text-[16px] font-semibold tracking-tight">
          <img src="/mark.svg" alt="" className="size-6" />
          Holtra
        </Link>
        <nav aria-label="Main" className="flex h-full gap-1 overflow-x-auto">
          {sections.map((section) => (
            <Tab key={section.title} section={section} badge={badges[section.title]} />
          ))}
        </nav>
        <div className="ml-auto">
          <Person name={name} />
        </div>
      </div>
    </header>
  );
}

function Tab({ section, badge = 0 }: { section: Section; badge?: number }) {
  const [location] = useLocation();
  const here = sectionOf(location) === section;
  return (
    <Link
      href={section.pages[0].href}
      aria-current={here ? "page" : undefined}
      className={`flex items-center gap-1.5 border-b-2 px-3 pt-0.5 ${here ? "border-accent font-semibold text-ink" : "border-transparent text-ink-soft hover:text-ink"}`}
    >
      {section.title}
      {badge > 0 && (
        <span className="rounded-full bg-bad-wash px-1.5 text-[11px] leading-[18px] font-semibold text-bad">
          {count(badge)}
        </span>
      )}
    </Link>
  );
}

function Person({ name }: { name: string }) {
  const client = useQueryClient();
  const [dark, setDark] = useState(document.documentElement.dataset.theme === "dark");
  const turn = () => {
    const next = dark ? "light" : "dark";
    document.documentElement.dataset.theme = next;
    localStorage.setItem("holtra-theme", next);
    setDark(!dark);
  };
  const signOut = async () => {
    await api.signOut();
    client.clear();
    location.assign("/");
  };
  const item = "rounded-sm px-3 py-1.5 text-[13px] outline-none data-highlighted:bg-accent-wash";
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger className="flex h-8 items-center gap-1.5 rounded px-2 text-[13px] text-ink-soft hover:bg-inset">
        {name}
        <svg viewBox="0 0 12 12" className="size-3" aria-hidden="true">
          <path d="M3 4.5 6 7.5 9 4.5" fill="none" stroke="currentColor" strokeWidth="1.6" />
        </svg>
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          align="end"
          sideOffset={4}
          className="z-20 min-w-40 rounded-md border border-rule-strong bg-sheet p-1 shadow-lg"
        >
          <DropdownMenu.Item className={item} onSelect={turn}>
            {dark ? "Light theme" : "Dark theme"}
          </DropdownMenu.Item>
          <DropdownMenu.Item className={item} onSelect={signOut}>
            Sign out
          </DropdownMenu.Item>
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}
