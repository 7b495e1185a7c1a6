import { type ComponentType, type LazyExoticComponent, lazy } from "react";
import { say } from "../texts/say";

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
  { path: "today", name: say("Today"), hotkey: "Home", Page: lazy(() => import("./today/TodayPage")) },
  { path: "jobs", name: say("Jobs"), hotkey: "j", Page: lazy(() => import("./jobs/JobsPage")) },
  {
    path: "sheets",
    more: "/:sheet?",
    name: say("Sheets"),
    hotkey: "End",
    Page: lazy(() => import("./sheets/SheetsPage")),
  },
  {
    path: "machines",
    more: "/:press?",
    name: say("Machines"),
    hotkey: "m",
    Page: lazy(() => import("./machines/MachinesPage")),
  },
  {
    path: "blanks",
    more: "/:blank?",
    name: say("Blanks"),
    hotkey: "k",
    Page: lazy(() => import("./blanks/BlanksPage")),
  },
  { path: "stores", name: say("Stores"), hotkey: "s", Page: lazy(() => import("./stores/StoresPage")) },
  {
    path: "recipes",
    more: "/:recipe?",
    name: say("Recipes"),
    hotkey: "r",
    Page: lazy(() => import("./recipes/RecipesPage")),
  },
  {
    path: "colour",
    more: "/:what?",
    name: say("Colour"),
    hotkey: "h",
    Page: lazy(() => import("./colour/ColourPage")),
  },
  { path: "prices", name: say("Prices"), hotkey: ".", isAside: true, Page: lazy(() => import("./prices/PricesPage")) },
  {
    path: "first-day",
    name: say("First day"),
    hotkey: ",",
    isAside: true,
    Page: lazy(() => import("./first-day/FirstDay")),
  },
  {
    path: "customers",
    more: "/:customer?",
    name: say("Customers"),
    hotkey: ";",
    Page: lazy(() => import("./customers/CustomersPage")),
  },
  { path: "logbook", name: say("Logbook"), hotkey: "l", Page: lazy(() => import("./logbook/LogbookPage")) },
  { path: "people", name: say("People"), hotkey: "w", Page: lazy(() => import("./people/PeoplePage")) },
  {
    path: "codes",
    more: "/:code?",
    name: say("Codes"),
    hotkey: "c",
    isAside: true,
    Page: lazy(() => import("./codes/CodePage")),
  },
];
