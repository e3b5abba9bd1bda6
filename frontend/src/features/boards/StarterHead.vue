<script setup lang="ts">
/** What stands in which column of a list of starters. */
defineProps<{ withBoard?: boolean }>()
</script>

<template>
  <thead>
    <tr>
      <th class="c-tag">Tag</th>
      <th>Description</th>
      <th v-if="withBoard" class="c-board">Board</th>
      <th class="num c-power">Power</th>
      <th class="num c-supply">Supply</th>
      <th class="num c-amps">In</th>
      <th class="c-device">Breaker or fuse</th>
      <th class="c-device">Contactor</th>
      <th class="c-device">Overload</th>
      <th class="num c-amps">Setting</th>
      <th class="c-marks">Findings</th>
      <th class="c-marks">Open items</th>
      <th class="c-menu"><span class="visually-hidden">Menu</span></th>
    </tr>
  </thead>
</template>

<style scoped src="@/ui/page.css"></style>
