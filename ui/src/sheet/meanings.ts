const all = {
  ignore: "not used",
  number: "Number",
  name: "Account name",
  "number-and-name": "Number and name",
  parent: "Parent",
  kind: "Kind",
  sort: "Sort",
  "normal-side": "Normal side",
  active: "Active",
  "outside-id": "Outside id",
  description: "Description",
  "tax-code": "Tax code",
  debit: "Debit",
  credit: "Credit",
  amount: "Amount",
  side: "Dr or Cr",
  level: "Level",
  party: "Customer or vendor",
  "party-id": "Their id",
  company: "Company name",
  "trade-name": "Trade name",
  document: "Kind of document",
  "document-number": "Document no.",
  date: "Date",
  due: "Due date",
  terms: "Terms",
  original: "Original",
  settled: "Settled",
  open: "Still open",
  tax: "Tax part",
  department: "Department",
  project: "Project",
  channel: "Channel",
  place: "Place",
  address: "Address",
  city: "City",
  state: "State",
  zip: "Zip",
  email: "E-mail",
  telephone: "Telephone",
  "tax-id": "Tax id",
  class: "Class",
  "party-kind": "Customer or vendor?",
  balance: "Balance",
  "to-number": "New number",
  "to-name": "New name",
  employee: "Employee",
  "employee-id": "Employee id",
  "first-name": "First name",
  "last-name": "Last name",
  group: "Group",
  officer: "Officer?",
  item: "Item",
  "item-code": "Item code",
  category: "Category",
  pay: "A pay item",
  total: "Adds others up",
  hours: "Hours",
  "year-to-date": "Year to date",
  "employer-amount": "Amount, employer's",
  "check-number": "Check no.",
  "check-date": "Check date",
  "period-from": "Period from",
  "period-to": "Period to",
  "run-id": "Run id",
  method: "How it was paid",
  "paid-from": "Paid from",
  withheld: "Tax withheld",
  box: "Form box",
  form: "Form",
  "tax-year": "Tax year",
  quarter: "Quarter",
  undoes: "Undoes the payment",
  "tax-id-kind": "Kind of tax id",
  "gets-forms": "Gets forms?",
  "w9-date": "W-9 of",
  attorney: "Attorney?",
  "rent-agent": "Rent agent?",
  "withholding-order": "Withholding ordered?",
  "exempt-code": "Exempt payee code",
  "address-2": "Address, line 2",
} as const;

const chart = [
  "ignore",
  "number",
  "name",
  "number-and-name",
  "parent",
  "kind",
  "sort",
  "normal-side",
  "active",
  "outside-id",
  "description",
  "tax-code",
  "level",
] as const;
const balance = ["ignore", "number", "name", "number-and-name", "parent", "kind", "outside-id", "debit", "credit", "amount", "side"] as const;

const tags = ["department", "project", "channel", "place", "description"] as const;
const items = [
  "ignore",
  "party-id",
  "party",
  "document",
  "document-number",
  "date",
  "due",
  "terms",
  "original",
  "settled",
  "open",
  "tax",
  "amount",
  "debit",
  "credit",
  "side",
  ...tags,
] as const;
const payments = [
  "ignore",
  "date",
  "party-id",
  "party",
  "outside-id",
  "document-number",
  "document",
  "method",
  "paid-from",
  "number",
  "name",
  "number-and-name",
  "amount",
  "debit",
  "credit",
  "withheld",
  "box",
  "undoes",
  "description",
] as const;
const register = [
  "ignore",
  "employee",
  "employee-id",
  "first-name",
  "last-name",
  "group",
  "officer",
  "pay",
  "total",
  "hours",
  "item",
  "item-code",
  "category",
  "amount",
  "employer-amount",
  "year-to-date",
  "check-number",
  "check-date",
  "period-from",
  "period-to",
  "run-id",
  "tax-id",
] as const;
const byPurpose: Record<string, readonly (keyof typeof all)[]> = {
  chart,
  "trial-balance": balance,
  "open-invoices": items,
  "open-bills": items,
  parties: [
    "ignore",
    "party-id",
    "party",
    "company",
    "first-name",
    "last-name",
    "trade-name",
    "party-kind",
    "class",
    "address",
    "city",
    "state",
    "zip",
    "email",
    "telephone",
    "terms",
    "tax-id",
    "balance",
    "active",
    "description",
    "address-2",
    "tax-id-kind",
    "gets-forms",
    "w9-date",
    "attorney",
    "rent-agent",
    "withholding-order",
    "exempt-code",
  ],
  "bank-uncleared": ["ignore", "date", "document-number", "document", "party", "amount", "debit", "credit", "description"],
  statement: ["ignore", "date", "document", "document-number", "outside-id", "party", "description", "amount", "debit", "credit", "balance"],
  "payroll-register": register,
  "payroll-to-date": register,
  "pay-bill": register,
  "vendor-payments": payments,
  "prior-payments": payments,
  "payroll-forms": ["ignore", "form", "tax-year", "quarter", "box", "amount", "description"],
  crosswalk: ["ignore", "number", "name", "outside-id", "to-number", "to-name"],
};

/** meanings a column can have, by what the file is read as (docs/read.md). */
export function meanings(purpose: string): { value: string; words: string }[] {
  const own: Record<string, string> =
    purpose === "crosswalk"
      ? { number: "Old number", name: "Old name" }
      : purpose === "vendor-payments" || purpose === "prior-payments"
        ? { party: "Vendor", document: "Kind of payment", "document-number": "Check or reference", "outside-id": "Payment id" }
        : purpose === "open-invoices"
          ? { party: "Customer" }
          : purpose === "open-bills"
            ? { party: "Vendor" }
            : purpose === "payroll-forms"
              ? { box: "Line or box", description: "Caption" }
              : {};
  return (byPurpose[purpose] ?? balance).map((value) => ({ value, words: own[value] ?? all[value] }));
}

/** what each kind of file is called, where it is worked on, and what it is taken in for. */
export const purposes: Record<string, { name: string; home: string }> = {
  chart: { name: "Chart", home: "chart" },
  "trial-balance": { name: "Old trial balance", home: "openings" },
  parties: { name: "Customers or vendors", home: "openings/parties" },
  "open-invoices": { name: "Open invoices", home: "openings/invoices" },
  "open-bills": { name: "Open bills", home: "openings/bills" },
  "bank-uncleared": { name: "Uncleared bank items", home: "openings/bank" },
  statement: { name: "Bank statement", home: "openings/bank" },
  crosswalk: { name: "Crosswalk", home: "openings/rack" },
  "payroll-register": { name: "Payroll register", home: "payroll" },
  "payroll-to-date": { name: "Pay of the year to date", home: "payroll" },
  "pay-bill": { name: "Carrier's bill or invoice", home: "payroll" },
  "payroll-forms": { name: "Provider's own forms", home: "payroll/forms" },
  "vendor-payments": { name: "Payments to vendors", home: "payees" },
  "prior-payments": { name: "Prior payments of the year", home: "payees" },
};

/** the classes of records, in words; data rows say nothing. */
export const rowClassWords: Record<string, string> = {
  row: "–",
  refused: "held",
  title: "title",
  header: "header",
  section: "section",
  subtotal: "subtotal",
  grand_total: "grand total",
  page_header: "page head",
  page_footer: "page foot",
  note: "note",
  blank: "blank",
};

/** asideWords sums up what was set aside: "3 title, 1 header, 9 section". */
export function asideWords(classes: Record<string, number>): { n: number; words: string } {
  let n = 0;
  const parts: string[] = [];
  for (const [k, v] of Object.entries(classes)) {
    if (!v) continue;
    n += v;
    parts.push(`${v} ${rowClassWords[k] ?? k}`);
  }
  return { n, words: parts.join(", ") };
}
