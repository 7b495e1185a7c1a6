import { type ComponentType, type LazyExoticComponent, lazy } from "react";

type Area = {
  path: string;
  /** What may follow the path in an address. */
  more?: string;
  name: string;
  hotkey: string;
  /** Not in the row at the top: reached by its key and from where it is needed. */
  isAside?: boolean;
  Page: ComponentType | LazyExoticComponent<ComponentType>;
};

/** The shop around the line, in the order of the row at the top: an area is a folder here and one line. */
export const AREAS: Area[] = [
  { path: "today", name: "Today", hotkey: "Home", Page: lazy(() => import("./today/TodayPage")) },
  { path: "jobs", name: "Jobs", hotkey: "j", Page: lazy(() => import("./jobs/JobsPage")) },
  {
    path: "sheets",
    more: "/:sheet?",
    name: "Sheets",
    hotkey: "End",
    Page: lazy(() => import("./sheets/SheetsPage")),
  },
  {
    path: "machines",
    more: "/:press?",
    name: "Machines",
    hotkey: "m",
    Page: lazy(() => import("./machines/MachinesPage")),
  },
  { path: "blanks", more: "/:blank?", name: "Blanks", hotkey: "k", Page: lazy(() => import("./blanks/BlanksPage")) },
  { path: "stores", name: "Stores", hotkey: "s", Page: lazy(() => import("./stores/StoresPage")) },
  {
    path: "recipes",
    more: "/:recipe?",
    name: "Recipes",
    hotkey: "r",
    Page: lazy(() => import("./recipes/RecipesPage")),
  },
  { path: "colour", more: "/:what?", name: "Colour", hotkey: "h", Page: lazy(() => import("./colour/ColourPage")) },
  { path: "prices", name: "Prices", hotkey: ".", isAside: true, Page: lazy(() => import("./prices/PricesPage")) },
  {
    path: "first-day",
    name: "First day",
    hotkey: ",",
    isAside: true,
    Page: lazy(() => import("./first-day/FirstDay")),
  },
  {
    path: "customers",
    more: "/:customer?",
    name: "Customers",
    hotkey: ";",
    Page: lazy(() => import("./customers/CustomersPage")),
  },
  { path: "logbook", name: "Logbook", hotkey: "l", Page: lazy(() => import("./logbook/LogbookPage")) },
  { path: "people", name: "People", hotkey: "w", Page: lazy(() => import("./people/PeoplePage")) },
  {
    path: "codes",
    more: "/:code?",
    name: "Codes",
    hotkey: "c",
    isAside: true,
    Page: lazy(() => import("./codes/CodePage")),
  },
];
