<script setup lang="ts">
import ConfigProvider from "ant-design-vue/es/config-provider";
import { RouterView } from "vue-router";

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
  </ConfigProvider>
</template>
