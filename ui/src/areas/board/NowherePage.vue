<template>
  <main class="empty" style="padding: 60px">
    <b>There is nothing at this address</b>
    It may have been typed wrong. <RouterLink to="/board">Go to the board</RouterLink>
  </main>
</template>
