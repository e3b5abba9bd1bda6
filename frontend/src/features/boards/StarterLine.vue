<script setup lang="ts">
import type { Line } from '@/api/client'
import VerdictMark from '@/ui/VerdictMark.vue'

/**
 * One starter of a list: what it is, what is set, what is found; its place alone while it is fetched. Links and menu are plain here: hundreds of rows come
 * and go while a long list is scrolled, and the table follows a link and opens the menu for all of them.
 */
defineProps<{ line: Line | undefined; withBoard?: boolean }>()
const emit = defineEmits<{ menu: [line: Line, event: MouseEvent] }>()
</script>

<template>
  <tr v-if="!line">
    <td :colspan="withBoard ? 13 : 12" class="quiet">…</td>
  </tr>
  <tr v-else>
    <td>
      <a :href="`/starters/${line.row.id}/plate`" class="figures tag">{{ line.row.tag }}</a>
    </td>
    <td>
      {{ line.row.service
      }}<span v-if="line.row.practice === 'nec'" class="quiet practice">
        North American practice</span
      >
      <span v-if="line.because" class="quiet practice">{{ line.because }}</span>
    </td>
    <td v-if="withBoard">
      <a :href="`/boards/${line.board_id}`" class="figures">{{ line.board }}</a>
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
      <a v-if="line.row.open_points" :href="`/starters/${line.row.id}/test`" class="points"
        >▲ {{ line.row.open_points }}</a
      >
    </td>
    <td class="num">
      <button
        type="button"
        class="more"
        aria-haspopup="menu"
        :aria-label="`Menu of ${line.row.tag}`"
        @click="emit('menu', line, $event)"
      >
        ⋯
      </button>
    </td>
  </tr>
</template>

<style scoped src="@/ui/page.css"></style>
<style scoped src="@/ui/more.css"></style>
