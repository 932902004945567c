type Page = { href: string; title: string };

/** An entry of the navigation, with the pages that belong to it. */
export type Section = { title: string; pages: [Page, ...Page[]] };

const single = (title: string): Section => ({ title, pages: [{ href: `/${title.toLowerCase()}`, title }] });

export const sections: Section[] = [
  single("Overview"),
  single("Messages"),
  single("Lanes"),
  {
    title: "Inlets",
    pages: [
      { href: "/inlets", title: "Inlets" },
      { href: "/connections", title: "Connections" },
    ],
  },
  single("Outlets"),
  {
    title: "Devices",
    pages: [
      { href: "/devices", title: "Devices" },
      { href: "/models", title: "Models" },
    ],
  },
  {
    title: "Alarms",
    pages: [
      { href: "/alarms", title: "Alarms" },
      { href: "/lookouts", title: "Lookouts" },
    ],
  },
  {
    title: "Repair",
    pages: [
      { href: "/dead", title: "Dead letters" },
      { href: "/incidents", title: "Incidents" },
      { href: "/jobs", title: "Jobs" },
    ],
  },
  {
    title: "Settings",
    pages: [
      { href: "/setup", title: "Setup" },
      { href: "/lookups", title: "Lookups" },
      { href: "/access", title: "Credentials and keys" },
      { href: "/storage", title: "Storage" },
    ],
  },
];

const under = (location: string, href: string) => location === href || location.startsWith(`${href}/`);

export const sectionOf = (location: string) =>
  sections.find((section) => section.pages.some((page) => under(location, page.href)));

export const pageOf = (location: string) =>
  sectionOf(location)?.pages.find((page) => under(location, page.href));
