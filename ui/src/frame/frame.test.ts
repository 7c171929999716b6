// @vitest-environment happy-dom
import { mount, RouterLinkStub } from "@vue/test-utils";
import { describe, expect, it } from "vitest";
import { createMemoryHistory, createRouter } from "vue-router";
import type { Schemas } from "../api/client";
import OpeningTape from "../areas/openings/OpeningTape.vue";
import { asideWords, meanings } from "../sheet/meanings";
import FindingList from "../sheet/FindingList.vue";
import ProofStrip from "./ProofStrip.vue";
import RailBar from "./RailBar.vue";
import StatePeg from "./StatePeg.vue";

const global = { stubs: { RouterLink: RouterLinkStub }, mocks: { $route: { path: "/c/1/chart" } } };

const state = (over: Partial<Schemas["Strip"]>): Schemas["State"] =>
  ({
    strip: { debit: "10.00", credit: "10.00", clearing: [], loose_labels: 0, proofs_open: 0, ...over },
    saved: "2026-07-03T09:21:00Z",
    pegs: [],
    loose: 0,
    words: "",
  }) as unknown as Schemas["State"];

describe("the peg", () => {
  it("is drawn by state and named in words, never by its shape alone", () => {
    for (const [s, shape] of [
      ["open", "open"],
      ["suggested", "sug"],
      ["set", "set"],
      ["left out", "left"],
      ["broken", "broken"],
    ]) {
      const w = mount(StatePeg, { props: { state: s! } });
      expect(w.text()).toBe(s);
      expect(w.find(".peg").classes()).toContain(shape);
    }
    const w = mount(StatePeg, { props: { state: "set", revisit: true } });
    expect(w.text()).toBe("set, revisit");
    expect(w.find(".peg").classes()).toEqual(["peg", "set", "rev"]);
  });
});

describe("the proof strip", () => {
  const text = (over: Partial<Schemas["Strip"]>) =>
    mount(ProofStrip, { props: { state: state(over), base: "/c/1" }, global })
      .text()
      .replace(/\s+/g, " ");
  it("says that all is well", () => {
    expect(text({})).toContain("in balance ✓");
    expect(text({})).toContain("clearing 0.00 ✓");
    expect(text({})).toContain("every proof holds ✓");
  });
  it("shows each clearing account by itself, in words, never netted", () => {
    const t = text({
      clearing: [
        { account_id: 1, number: "1290", name: "r", balance: "64.80" },
        { account_id: 2, number: "3990", name: "o", balance: "-64.80" },
      ],
    });
    expect(t).toContain("1290 debit 64.80 · 3990 credit 64.80");
  });
  it("counts what is loose and does not hold", () => {
    expect(text({ loose_labels: 1, proofs_open: 1 })).toContain("1 loose label1 proof does not hold");
    expect(text({ proofs_open: 3 })).toContain("3 proofs do not hold");
    expect(text({ credit: "9.00" })).toContain("out of balance");
  });
});

describe("the tape", () => {
  it("adds up to its total, debit and credit apart", () => {
    const line = (way: string, amount: string) => ({ fact_id: 1, record: 1, label_id: 1, old: "", amount, account_id: 1, account: "", way, reason: "" });
    const draft = {
      lines: [line("line", "10.00"), line("line", "-4.00"), line("control", "0.50"), line("unplaced", "-6.50"), line("nothing", "0.00")],
      debit: "10.50",
      credit: "10.50",
      difference: "0.00",
    } as unknown as Schemas["Draft"];
    const rows = mount(OpeningTape, { props: { draft } })
      .findAll("tbody tr")
      .map((r) => r.findAll("td").map((c) => c.text()));
    expect(rows).toEqual([
      ["2", "placed", "10.00", "4.00"],
      ["1", "to clearing", "0.50", "0.00"],
      ["1", "not yet placed", "0.00", "6.50"],
      ["1", "nothing to post", "0.00", "0.00"],
      ["5", "in balance", "10.50", "10.50"],
    ]);
  });
});

describe("findings", () => {
  const f = (over: Partial<Schemas["TableFinding"]>): Schemas["TableFinding"] => ({
    code: "c",
    severity: "note",
    record: 0,
    line: 0,
    column: 0,
    cell: "",
    text: "",
    message: "m",
    suggestion: "",
    ...over,
  });
  const findings = [
    f({ message: "look" }),
    f({ severity: "hold-posting", code: "other-day", message: "day", confirmable: true }),
    f({ severity: "refuse-row", record: 8, column: 4, cell: "D8", suggestion: "120.50", message: "bad" }),
  ];
  it("puts what refuses first, and emits the fix of its own cell", async () => {
    const w = mount(FindingList, { props: { findings, aside: { title: 3, header: 1, note: 0 }, at: -1, open: true } });
    expect(w.findAll(".msg").map((m) => m.text())).toEqual(["bad", "day", "look", "set aside: 3 title, 1 header; change it in the margin"]);
    await w.find("button.btn").trigger("click");
    expect(w.emitted("fix")).toEqual([[{ record: 8, column: 4, text: "120.50" }]]);
    await w
      .findAll("button")
      .find((b) => b.text() === "It is right")!
      .trigger("click");
    expect(w.emitted("confirm")).toEqual([["other-day"]]);
    await w.find(".where button").trigger("click");
    expect(w.emitted("go")).toEqual([[2]]);
  });
  it("offers only to confirm once it was taken in", () => {
    const w = mount(FindingList, { props: { findings, aside: {}, at: -1, open: false } });
    expect(w.findAll("button.btn").map((b) => b.text())).toEqual(["It is right"]);
  });
  it("sums up what was set aside and knows the meanings of columns", () => {
    expect(asideWords({ title: 2, grand_total: 1, note: 0 })).toEqual({ n: 3, words: "2 title, 1 grand total" });
    expect(meanings("chart").map((m) => m.value)).not.toContain("debit");
    expect(meanings("trial-balance").map((m) => m.value)).toContain("debit");
  });
});

describe("the rail", () => {
  it("says the state of each peg in words and counts what is loose", async () => {
    const pegs = [
      { key: "brief", name: "Brief", state: "solid" as const, loose: 0 },
      { key: "openings", name: "Openings", state: "half" as const, loose: 3 },
    ];
    const router = createRouter({ history: createMemoryHistory(), routes: [{ path: "/:all(.*)", component: StatePeg }] });
    await router.push("/c/1/openings/rack");
    const w = mount(RailBar, { props: { pegs, base: "/c/1" }, global: { plugins: [router] } });
    expect(w.find(".on").text()).toContain("Openings");
    expect(w.text().replace(/\s+/g, " ")).toContain("Brief nothing loose");
    expect(w.text().replace(/\s+/g, " ")).toContain("Openings 3loose ends");
  });
});
