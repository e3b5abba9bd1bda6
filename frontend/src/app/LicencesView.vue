<script setup lang="ts">
import { computed, onMounted, ref } from 'vue'

import { client, type Licence } from '@/api/client'
import { useAsked } from '@/stores/asked'

/** Licences of everything that is shipped with this program or runs with it. */
const { data, said, ask } = useAsked(() => client.GET('/api/licences'))
const rows = computed<Licence[]>(() => data.value?.licences ?? [])
const open = ref('')
onMounted(() => {
  document.title = 'Licences · Volmek'
  void ask()
})
</script>

<template>
  <main id="content" class="page">
    <h1>Licences</h1>
    <p>
      Volmek is under the MIT licence. With it come, or run, {{ rows.length }} packages of others.
    </p>
    <p v-if="said" class="problem" role="alert">■ {{ said }}</p>
    <section>
      <table>
        <thead>
          <tr>
            <th>Package</th>
            <th>Version</th>
            <th>Where</th>
            <th>Licence</th>
            <th><span class="visually-hidden">Text</span></th>
          </tr>
        </thead>
        <tbody v-for="l in rows" :key="l.part + l.name + l.version">
          <tr>
            <td>{{ l.name }}</td>
            <td class="figures">{{ l.version }}</td>
            <td>{{ l.part }}</td>
            <td>{{ l.licence }}</td>
            <td>
              <button
                v-if="l.text"
                type="button"
                class="link"
                :aria-expanded="open === l.part + l.name"
                :aria-label="`Text of the licence of ${l.name}`"
                @click="open = open === l.part + l.name ? '' : l.part + l.name"
              >
                text
              </button>
            </td>
          </tr>
          <tr v-if="open === l.part + l.name">
            <td colspan="5">
              <pre>{{ l.text }}</pre>
            </td>
          </tr>
        </tbody>
      </table>
    </section>
  </main>
</template>

<style scoped src="@/ui/page.css"></style>
<style scoped>
pre {
  white-space: pre-wrap;
  font-size: 0.86rem;
  max-height: 60vh;
  overflow: auto;
}
</style>
