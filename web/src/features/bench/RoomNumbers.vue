<script setup lang="ts">
import { computed } from 'vue'
import { HOURS, type Day, type RoomDay } from './useRoomDay'

const props = defineProps<{ day: RoomDay }>()
const { planted, normal, hours, busy, failure } = props.day
const played = computed(() => Math.round((planted.value?.minutes ?? 0) / 60))

/** One day in figures: each with the same of the machine with nothing wrong. */
const rows = computed(() => {
  const now = planted.value
  if (!now?.controls) return []
  const c = (day: Day | null) => day?.controls
  const degree = now.units.temperature ?? ''
  const rate = (day: Day | null) =>
    day?.controls && day.minutes ? (day.controls.starts / (day.minutes / 60)).toFixed(1) : '–'
  const defrosts = (day: Day | null) => {
    const found = c(day)?.defrost_minutes ?? []
    if (!found.length) return 'none'
    const mean = found.reduce((a, b) => a + b, 0) / found.length
    return `${found.length} of ${mean.toFixed(0)} min`
  }
  const room = (day: Day | null) => (c(day) ? `${c(day)?.room_low} to ${c(day)?.room_high} ${degree}` : '–')
  const runs = (day: Day | null) => {
    const row = c(day)
    if (!row) return '–'
    const low = row.low_stage_pct === null ? 'of the time' : `, ${Math.round(row.low_stage_pct)} % in low stage`
    return `${Math.round(row.ran_pct)} % ${low}`.replace(' ,', ',')
  }
  const goods = (day: Day | null) => (c(day) ? `${c(day)?.goods} ${degree}` : '–')
  const made = (id: string, name: string, tell: (day: Day | null) => string) => ({
    id,
    name,
    now: tell(planted.value),
    normal: tell(normal.value),
  })
  return [
    made('room', 'Room', room),
    made('goods', 'Product', goods),
    made('runs', 'Runs', runs),
    made('starts', 'Starts an hour', rate),
    made('defrosts', 'Defrosts', defrosts),
  ]
})
</script>

<template>
  <div class="card numbers">
    <p v-if="failure" class="error" role="alert">{{ failure }}</p>
    <dl v-for="r in rows" v-else :key="r.id" :data-test="`day-${r.id}`">
      <dt>{{ r.name }}</dt>
      <dd class="num">{{ r.now }}</dd>
      <dd class="soft">normal {{ r.normal }}</dd>
    </dl>
    <div class="span">
      <span class="soft" role="status">{{ busy ? `hour ${played + 1} of ${hours}…` : `${played} h played` }}</span>
      <select v-model.number="hours" aria-label="Hours to play" data-test="day-hours">
        <option v-for="h in HOURS" :key="h" :value="h">{{ h }} h</option>
      </select>
    </div>
  </div>
</template>

<style scoped>
.numbers {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 26px;
  padding: 7px 12px;
}
dl {
  margin: 0;
}
dt {
  font-weight: 600;
  font-size: 13px;
}
dd {
  margin: 0;
  font-size: 12.5px;
}
dd.num {
  font-size: 15px;
  font-weight: 700;
}
.span {
  margin-left: auto;
  display: flex;
  flex-direction: column;
  gap: 4px;
  align-items: flex-end;
  font-size: 12.5px;
}
</style>
