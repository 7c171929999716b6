// @vitest-environment happy-dom
import { mount } from "@vue/test-utils";
import { describe, expect, it } from "vitest";
import DayInput from "./DayInput.vue";

const box = (modelValue = "", min = "") => {
  const w = mount(DayInput, {
    props: { id: "d", modelValue, min, "onUpdate:modelValue": (v: string) => w.setProps({ modelValue: v }) },
    attachTo: document.body,
  });
  const field = w.get<HTMLInputElement>("#d");
  return { w, field, type: (t: string) => field.setValue(t).then(() => field.trigger("change")) };
};

describe("a day", () => {
  it("counts as typed when the field is left, and is shown in our words", async () => {
    const { w, field, type } = box();
    await type("7/1/2026");
    expect(w.props("modelValue")).toBe("2026-07-01");
    expect(field.element.value).toBe("1 Jul 2026");
    await type("");
    expect(w.props("modelValue")).toBe("");
  });
  it("says what is no day, keeps the one it had and lets no form go", async () => {
    const { w, field, type } = box("2026-07-01");
    await type("31 Jun 2026");
    expect(w.props("modelValue")).toBe("2026-07-01");
    expect(w.get("[role=alert]").text()).toContain("31 Jun 2026 is no day");
    expect(field.element.validationMessage).toContain("31 Jun 2026");
    await type("30 Jun 2026");
    expect(w.props("modelValue")).toBe("2026-06-30");
    expect(w.find("[role=alert]").exists()).toBe(false);
    expect(field.element.validationMessage).toBe("");
  });
  it("says a day before the first that can be", async () => {
    const { w, type } = box("", "2026-07-01");
    await type("30 Jun 2026");
    expect(w.props("modelValue")).toBe("");
    expect(w.get("[role=alert]").text()).toBe("30\u00a0Jun\u00a02026 is before 1\u00a0Jul\u00a02026");
  });
});
