<script setup lang="ts">
/** When each apprentice was at the rig: their paper is marked against what it showed then, not against one snapshot. */
import { ref } from 'vue'
import { api, ask, type Schemas, sentence } from '@/api/client'
import { kept } from '@/shared/kept'
import { clockTime, user } from '@/shared/session'

const props = defineProps<{
  sheetId: number
  position: number
  rigId: number
  times: Schemas['AtRigRow'][]
}>()
const emit = defineEmits<{ changed: [] }>()
/** What is typed and not taken yet; it survives a reload. */
const typed = kept<Record<string, string>>('rig.times', {})
const day = ref(new Date().toLocaleDateString('sv', { timeZone: user.value?.time_zone ?? 'UTC' }))
const said = ref<Record<string, string>>({})
const busy = ref('')

/** A moment of the school's own day as an ISO time; null where what was typed is no time of day. */
function moment(text: string): string | null {
  const found = /^(\d{1,2})[:.]?(\d{2})\s*(am|pm)?$/i.exec(text.trim())
  if (!found) return null
  const half = found[3]?.toLowerCase()
  const hour = (Number(found[1]) % (half ? 12 : 24)) + (half === 'pm' ? 12 : 0)
  const wall = `${day.value}T${String(hour).padStart(2, '0')}:${found[2]}:00`
  const utc = new Date(`${wall}Z`)
  const zone = user.value?.time_zone ?? 'UTC'
  const there = new Date(`${utc.toLocaleString('sv', { timeZone: zone }).replace(' ', 'T')}Z`)
  return new Date(2 * utc.getTime() - there.getTime()).toISOString()
}
async function take(row: Schemas['AtRigRow']): Promise<void> {
  const at = moment(typed.value[row.code] ?? '')
  if (at === null) {
    said.value[row.code] = 'a time of day, as 9:40 or 1:15 pm'
    return
  }
  busy.value = row.code
  try {
    const reply = await ask(
      api.PUT('/api/v1/papers/{code}/rig', {
        params: { path: { code: row.code } },
        body: { position: props.position, rig_id: props.rigId, at, confirmed: true },
      }),
    )
    const moved = reply.moves[0]
    said.value[row.code] = [moved ? `${moved.before ?? '–'} → ${moved.after} points` : 'taken', ...reply.warnings].join(
      '; ',
    )
    delete typed.value[row.code]
    emit('changed')
  } catch (error) {
    said.value[row.code] = sentence(error)
  } finally {
    busy.value = ''
  }
}
</script>

<template>
  <section class="card" aria-label="Who was at the rig when">
    <h2>Who was at the rig when</h2>
    <p class="soft">
      The weather drifts over an afternoon. With a time, a paper is marked against what the rig showed within two and a
      half minutes of it.
    </p>
    <label class="day">Day <input v-model="day" type="date" /></label>
    <table class="list">
      <thead>
        <tr>
          <th>Apprentice</th>
          <th>At the rig</th>
          <th><span class="off">Take it</span></th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="r in times" :key="r.code">
          <td>{{ r.name }}</td>
          <td>
            <input
              v-model="typed[r.code]"
              :aria-label="`When ${r.name} was at the rig`"
              :placeholder="r.at ? clockTime(r.at) : '9:40'"
              @keydown.enter.prevent="take(r)"
            />
          </td>
          <td>
            <el-button
              size="small"
              :loading="busy === r.code"
              :disabled="!typed[r.code]"
              :aria-label="`Take the time of ${r.name}`"
              data-test="take-time"
              @click="take(r)"
              >Take</el-button
            >
            <span class="soft" role="status">{{ said[r.code] ?? (r.at ? `${clockTime(r.at)}, ${r.rig}` : '') }}</span>
          </td>
        </tr>
      </tbody>
    </table>
  </section>
</template>

<style scoped>
.day {
  display: block;
  margin-bottom: 6px;
}
td input {
  width: 96px;
}
</style>
