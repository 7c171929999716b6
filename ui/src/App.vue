<script setup lang="ts">
import ConfigProvider from "ant-design-vue/es/config-provider";
import { RouterView } from "vue-router";
import { asked } from "./frame/ask";
import AskBox from "./frame/AskBox.vue";

// The widgets take the hallway's tokens, not their library's own look.
const theme = {
  token: {
    colorPrimary: "#2f5573",
    colorText: "#26221e",
    colorTextPlaceholder: "#6b6259",
    colorBorder: "#8f8371",
    colorBgContainer: "#ffffff",
    colorError: "#a5382c",
    colorLink: "#2f5573",
    borderRadius: 4,
    fontFamily: '"Public Sans Variable", system-ui, sans-serif',
    fontSize: 13,
    controlHeight: 30,
    boxShadowSecondary: "0 3px 10px #3a2b2224",
    motion: false,
  },
};
</script>

<template>
  <ConfigProvider :theme="theme" :auto-insert-space-in-button="false">
    <RouterView />
    <AskBox v-if="asked" :key="asked.ask.title" :ask="asked.ask" @answer="(a) => asked?.answer(a)" />
  </ConfigProvider>
</template>
