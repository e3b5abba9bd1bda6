<script setup lang="ts">
import Button from 'primevue/button'
import Dialog from 'primevue/dialog'
import InputText from 'primevue/inputtext'
import { onMounted, ref } from 'vue'

import { useBin } from '@/stores/bin'
import { useMe } from '@/stores/me'

/** The starter that was just removed, with the way back, and the bin. */
const emit = defineEmits<{ changed: [] }>()
const bin = useBin()
const me = useMe()
const open = ref(false)
/** The starter that is to go for good, and its tag typed once more. */
const emptying = ref<{ id: number; typed: string } | null>(null)
onMounted(() => void bin.load())

async function back(id: number): Promise<void> {
  if (await bin.putBack(id)) emit('changed')
}
async function empty(): Promise<void> {
  const e = emptying.value
  if (e && (await bin.empty(e.id, e.typed.trim()))) emptying.value = null
}
const day = (at: string) => at.slice(0, 10)
</script>

<template>
  <div class="bin" data-screen>
    <p v-if="bin.last" class="undo" role="status">
      {{ bin.last.tag }} is in the bin.
      <button type="button" class="link" @click="back(bin.last.id)">Undo</button>
    </p>
    <p v-if="bin.refused && !open" class="problem" role="alert">■ {{ bin.refused }}</p>
    <Button
      v-if="bin.starters.length"
      :label="`Bin (${bin.starters.length})`"
      size="small"
      text
      @click="open = true"
    />
    <Dialog v-model:visible="open" modal header="Bin" :style="{ width: 'min(44rem, 94vw)' }">
      <p class="quiet">
        Document, history and record of a starter in the bin are kept. Taken out for good, only the
        end of its record stays.
      </p>
      <ul>
        <li v-for="s in bin.starters" :key="s.id">
          <span class="what">
            <b class="figures">{{ s.tag }}</b> {{ s.service }}
            <span class="quiet">
              {{ s.board }}, {{ s.job }} · removed {{ day(s.removed)
              }}{{ s.removed_by ? ` by ${s.removed_by}` : ''
              }}{{ s.entries ? ` · ${s.entries} entries` : '' }}
            </span>
          </span>
          <Button
            v-if="me.may('designs')"
            label="Put back"
            size="small"
            :aria-label="`Put back ${s.tag}`"
            @click="back(s.id)"
          />
          <Button
            v-if="me.may('administers')"
            label="For good…"
            size="small"
            text
            :aria-label="`Remove ${s.tag} for good`"
            @click="emptying = { id: s.id, typed: '' }"
          />
          <form v-if="emptying?.id === s.id" class="sure" @submit.prevent="empty">
            <label>
              Type {{ s.tag }} to remove it for good<template v-if="s.entries"
                >, with {{ s.entries }} entries of its record</template
              >
              <InputText v-model="emptying.typed" size="small" autofocus />
            </label>
            <Button
              type="submit"
              label="Remove for good"
              severity="danger"
              size="small"
              :disabled="emptying.typed.trim() !== s.tag"
            />
            <Button type="button" label="Cancel" size="small" text @click="emptying = null" />
          </form>
        </li>
      </ul>
      <p v-if="bin.starters.length === 0" class="quiet">The bin is empty.</p>
      <p v-if="bin.refused" class="problem" role="alert">■ {{ bin.refused }}</p>
    </Dialog>
  </div>
</template>

<style scoped>
.bin {
  display: flex;
  flex-wrap: wrap;
  gap: 0.3rem 1rem;
  align-items: center;
  margin: 0.6rem 0;
}
.undo {
  border-left: 3px solid var(--accent);
  padding: 0.4rem 0.9rem;
  background: var(--accent-tint);
  /* wherever the row was that is gone, the way back is in view */
  position: fixed;
  left: 1rem;
  bottom: 1rem;
  z-index: 6;
  box-shadow: 0 2px 10px rgb(0 0 0 / 0.25);
}
.link {
  border: 0;
  background: none;
  color: var(--accent);
  text-decoration: underline;
  cursor: pointer;
  min-height: 1.8rem;
}
.problem {
  color: var(--stop);
}
ul {
  list-style: none;
  padding: 0;
  margin: 0.6rem 0 0;
}
li {
  display: flex;
  flex-wrap: wrap;
  gap: 0.3rem 0.6rem;
  align-items: center;
  padding: 0.4rem 0;
  border-bottom: 1px solid var(--rule);
}
.what {
  flex: 1 1 16rem;
}
.what .quiet {
  display: block;
  font-size: 0.88rem;
}
.sure {
  flex-basis: 100%;
  display: flex;
  flex-wrap: wrap;
  gap: 0.5rem;
  align-items: end;
}
.sure label {
  display: grid;
  gap: 0.15rem;
}
</style>
