import "@fontsource-variable/public-sans";
import "@fontsource-variable/bitter";
import "./style/tokens.css";
import "./style/frame.css";
import "./style/panes.css";
import "./style/tables.css";
import "./style/manners.css";
import "./style/narrow.css";
import { QueryClient, VueQueryPlugin } from "@tanstack/vue-query";
import { createApp } from "vue";
import App from "./App.vue";
import { router } from "./router";

const queries = new QueryClient({
  defaultOptions: {
    // Without a network an act fails at once and says so; it is never kept to be sent later, unseen.
    queries: { staleTime: 5_000, retry: 1, refetchOnWindowFocus: true, networkMode: "always" },
    mutations: { networkMode: "always" },
  },
});

createApp(App).use(router).use(VueQueryPlugin, { queryClient: queries }).mount("#app");
