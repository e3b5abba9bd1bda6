<script setup lang="ts">
import type { BoardName, Line } from '@/api/client'
import StarterMenu from '@/features/boards/StarterMenu.vue'
import VerdictMark from '@/ui/VerdictMark.vue'

/** One starter of a list: what it is, what is set, what is found; its place alone while it is fetched. */
defineProps<{ line: Line | undefined; boards: BoardName[]; withBoard?: boolean }>()
const emit = defineEmits<{ changed: [] }>()
</script>

<template>
  <tr v-if="!line">
    <td :colspan="withBoard ? 13 : 12" class="quiet">…</td>
  </tr>
  <tr v-else>
    <td>
      <RouterLink :to="`/starters/${line.row.id}/plate`" class="figures tag">{{
        line.row.tag
      }}</RouterLink>
    </td>
    <td>
      {{ line.row.service
      }}<span v-if="line.row.practice === 'nec'" class="quiet practice">
        North American practice</span
      >
      <span v-if="line.because" class="quiet practice">{{ line.because }}</span>
    </td>
    <td v-if="withBoard">
      <RouterLink :to="`/boards/${line.board_id}`" class="figures">{{ line.board }}</RouterLink>
    </td>
    <td class="num figures">{{ line.row.power }}</td>
    <td v-if="!line.row.sized" colspan="7" class="quiet">… being sized</td>
    <template v-else-if="!line.row.problem">
      <td class="num figures">{{ line.row.voltage }}</td>
      <td class="num figures">{{ line.row.current }}<span class="unit">A</span></td>
      <td class="figures">{{ line.row.breaker }}</td>
      <td class="figures">{{ line.row.contactor }}</td>
      <td :class="{ figures: line.row.relay, quiet: !line.row.relay }">
        {{ line.row.relay || 'in the breaker' }}
      </td>
      <td class="num figures">
        <b>{{ line.row.dial }}</b><span class="unit">A</span>
      </td>
      <td class="marks">
        <span v-if="line.row.stop"
          ><VerdictMark verdict="stop" wordless /> {{ line.row.stop }}</span
        >
        <span v-if="line.row.attention"
          ><VerdictMark verdict="attention" wordless /> {{ line.row.attention }}</span
        >
        <VerdictMark v-if="!line.row.stop && !line.row.attention" verdict="fine" />
      </td>
    </template>
    <td v-else colspan="7" class="quiet">○ Incomplete: {{ line.row.problem }}</td>
    <td>
      <RouterLink v-if="line.row.open_points" :to="`/starters/${line.row.id}/test`" class="points"
        >▲ {{ line.row.open_points }}</RouterLink
      >
    </td>
    <td class="num">
      <StarterMenu
        :starter="line.row"
        :board-id="line.board_id"
        :boards="boards"
        @changed="emit('changed')"
      />
    </td>
  </tr>
</template>

<style scoped src="@/ui/page.css"></style>
