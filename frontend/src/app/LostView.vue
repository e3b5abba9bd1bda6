<template>
  <main id="content" class="lost">
    <p>There is no such page.</p>
    <RouterLink to="/">All boards</RouterLink>
  </main>
</template>

<style scoped>
.lost {
  padding: 2rem;
}
</style>
