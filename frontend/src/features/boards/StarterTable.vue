<script setup lang="ts">
import type { BoardsOut } from '@/api/client'
import StarterMenu from '@/features/boards/StarterMenu.vue'
import type { Placed } from '@/stores/found'
import VerdictMark from '@/ui/VerdictMark.vue'

/** Starters as a list: what they are, what is set, what is found; on a phone one card each. */
defineProps<{ rows: Placed[]; boards: BoardsOut['boards']; withBoard?: boolean }>()
const emit = defineEmits<{ changed: [] }>()
</script>

<template>
  <table class="starters">
    <thead>
      <tr>
        <th>Tag</th>
        <th>Description</th>
        <th v-if="withBoard">Board</th>
        <th class="num">Power</th>
        <th class="num">Supply</th>
        <th class="num">In</th>
        <th>Breaker or fuse</th>
        <th>Contactor</th>
        <th>Overload</th>
        <th class="num">Setting</th>
        <th>Findings</th>
        <th>Open items</th>
        <th><span class="visually-hidden">Menu</span></th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="{ row: s, boardId, board, because } in rows" :key="s.id">
        <td>
          <RouterLink :to="`/starters/${s.id}/plate`" class="figures tag">{{ s.tag }}</RouterLink>
        </td>
        <td>
          {{ s.service
          }}<span v-if="s.practice === 'nec'" class="quiet practice"> North American practice</span>
          <span v-if="because" class="quiet practice">{{ because }}</span>
        </td>
        <td v-if="withBoard">
          <RouterLink :to="`/boards/${boardId}`" class="figures">{{ board }}</RouterLink>
        </td>
        <td class="num figures">{{ s.power }}</td>
        <template v-if="!s.problem">
          <td class="num figures">{{ s.voltage }}</td>
          <td class="num figures">{{ s.current }}<span class="unit">A</span></td>
          <td class="figures">{{ s.breaker }}</td>
          <td class="figures">{{ s.contactor }}</td>
          <td :class="{ figures: s.relay, quiet: !s.relay }">{{ s.relay || 'in the breaker' }}</td>
          <td class="num figures">
            <b>{{ s.dial }}</b><span class="unit">A</span>
          </td>
          <td class="marks">
            <span v-if="s.stop"><VerdictMark verdict="stop" wordless /> {{ s.stop }}</span>
            <span v-if="s.attention"
              ><VerdictMark verdict="attention" wordless /> {{ s.attention }}</span
            >
            <VerdictMark v-if="!s.stop && !s.attention" verdict="fine" />
          </td>
        </template>
        <td v-else colspan="7" class="quiet">○ Incomplete: {{ s.problem }}</td>
        <td>
          <RouterLink v-if="s.open_points" :to="`/starters/${s.id}/test`" class="points"
            >▲ {{ s.open_points }}</RouterLink
          >
        </td>
        <td class="num">
          <StarterMenu
            :starter="s"
            :board-id="boardId"
            :boards="boards"
            @changed="emit('changed')"
          />
        </td>
      </tr>
    </tbody>
  </table>
</template>

<style scoped src="@/ui/page.css"></style>
<style scoped>
@media (max-width: 73.75em) {
  .starters thead {
    display: none;
  }
  .starters tr {
    display: flex;
    flex-wrap: wrap;
    gap: 0.1rem 0.9rem;
    align-items: baseline;
    padding: 0.5rem 0.7rem;
    border-bottom: 1px solid var(--rule);
    position: relative;
  }
  .starters td {
    border: 0;
    padding: 0;
  }
  .starters td:nth-child(2) {
    flex-basis: 70%;
  }
  .starters td:last-child {
    position: absolute;
    right: 0.2rem;
    top: 0.2rem;
  }
}
</style>
