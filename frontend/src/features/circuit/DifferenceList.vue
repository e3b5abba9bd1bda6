<script setup lang="ts">
import type { Difference } from '@/api/client'
import { useWording } from '@/stores/wording'

/** Parts, devices, settings and wires that change, in the order in which they are worked off. */
defineProps<{ difference: Difference }>()
const wording = useWording()
</script>

<template>
  <div class="columns">
    <section>
      <h3>Devices and settings</h3>
      <p v-for="p in difference.parts_added" :key="p">+ {{ wording.say(p) }}</p>
      <p v-for="p in difference.parts_removed" :key="p">− {{ wording.say(p) }}</p>
      <p v-for="p in difference.changed" :key="p">{{ wording.say(p) }}</p>
      <p
        v-if="
          !difference.parts_added.length &&
          !difference.parts_removed.length &&
          !difference.changed.length
        "
        class="quiet"
      >
        None.
      </p>
    </section>
    <section>
      <h3>Remove {{ difference.removed.length }} wires</h3>
      <p v-for="w in difference.removed" :key="w.a + w.b" class="figures">{{ w.a }} – {{ w.b }}</p>
    </section>
    <section>
      <h3>Move {{ difference.moved.length }} wires</h3>
      <p v-for="w in difference.moved" :key="w.keeps + w.was" class="figures">
        {{ w.keeps }}: {{ w.was }} → {{ w.goes }}
      </p>
    </section>
    <section>
      <h3>Add {{ difference.added.length }} wires</h3>
      <p v-for="w in difference.added" :key="w.a + w.b" class="figures">{{ w.a }} – {{ w.b }}</p>
    </section>
  </div>
  <p class="quiet">
    {{ difference.kept }} wires stay. Isolate, lock off and prove dead before any is touched.
  </p>
</template>

<style scoped>
.columns {
  display: grid;
  grid-template-columns: 1.4fr repeat(3, minmax(10rem, 1fr));
  gap: 0.4rem 1.4rem;
  margin-bottom: 0.4rem;
}
h3 {
  font-size: 0.93rem;
  margin: 0 0 0.2rem;
}
p {
  font-size: 0.93rem;
}
@media (max-width: 51.25em) {
  .columns {
    grid-template-columns: minmax(0, 1fr) minmax(0, 1fr);
  }
}
@media (max-width: 38.75em) {
  .columns {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
