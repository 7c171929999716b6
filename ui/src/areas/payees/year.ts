import { computed } from "vue";
import { useRoute } from "vue-router";

/** useYear is the tax year in the address; 0 is the one whose forms are next due. */
export function useYear() {
  const route = useRoute();
  return computed(() => Number(route.query.year ?? 0));
}
