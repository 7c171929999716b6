import type { InjectionKey, Ref } from "vue";

/** Whether the why pane is folded away. */
export const foldedKey: InjectionKey<Ref<boolean>> = Symbol("folded");
