<script setup lang="ts">
/** What a rig is, as it was entered: name, place, address, limits; channels and devices as its map says. */
import { computed, ref } from 'vue'
import { api, ask, type Schemas } from '@/api/client'
import { useFailing } from '@/shared/failing'
import FileButton from '@/shared/FileButton.vue'

const props = defineProps<{ rigId: number; full: Schemas['RigFull'] }>()
const emit = defineEmits<{ changed: [full: Schemas['RigFull']] }>()
const rig = computed(() => props.full.rig)
/** As it was entered when the page was opened. */
const before = props.full.rig
const typed = ref({
  name: before.name,
  place: before.place,
  address: before.address,
  notes: before.notes,
  countersign: before.countersign ?? false,
  head_psig: text(before.limits?.head_psig),
  suction_psig: text(before.limits?.suction_psig),
  discharge_f: text(before.limits?.discharge_f),
  box_f: text(before.limits?.box_f),
})
function text(v: number | null | undefined): string {
  return v === null || v === undefined ? '' : String(v)
}
const LIMITS = [
  ['head_psig', 'Head, at most', 'psig'],
  ['suction_psig', 'Suction, at least', 'psig'],
  ['discharge_f', 'Discharge line, at most', '°F'],
  ['box_f', 'Box or room, at most', '°F'],
] as const
const { failure, busy, attempt } = useFailing()
const number = (v: string) => (v.trim() === '' ? null : Number(v.replace(',', '.')))
const photoAt = { params: { path: { rig_id: props.rigId } } }
const photo = (event: Event) =>
  attempt(async () => {
    const input = event.target as HTMLInputElement
    const file = input.files?.[0]
    input.value = ''
    if (!file) return
    const sent = api.PUT('/api/v1/rigs/{rig_id}/photo', {
      ...photoAt,
      body: file as never,
      bodySerializer: (body: unknown) => body as Blob,
      headers: { 'Content-Type': file.type || 'image/jpeg' },
    })
    emit('changed', await ask(sent))
  })
const noPhoto = () =>
  attempt(async () => emit('changed', await ask(api.DELETE('/api/v1/rigs/{rig_id}/photo', photoAt))))
const save = () =>
  attempt(async () => {
    const { name, place, address, notes, countersign } = typed.value
    const limits = Object.fromEntries(LIMITS.map(([key]) => [key, number(typed.value[key])]))
    const body = { rig: { ...rig.value, name, place, address, notes, limits, countersign } }
    emit('changed', await ask(api.PUT('/api/v1/rigs/{rig_id}', { params: { path: { rig_id: props.rigId } }, body })))
  })
</script>

<template>
  <details class="card">
    <summary>
      <h2>What it is</h2>
      <span class="soft">name, place, address, limits, {{ rig.channels?.length }} channels</span>
    </summary>
    <form @submit.prevent="save">
      <div class="fields">
        <label class="field"><span>Name</span><input v-model="typed.name" maxlength="80" required /></label>
        <label class="field"><span>Place</span><input v-model="typed.place" maxlength="80" /></label>
        <label class="field"><span>Address of its logger</span><input v-model="typed.address" maxlength="120" /></label>
        <label v-for="[key, name, unit] in LIMITS" :key="key" class="field"
          ><span
            >{{ name }} <small class="soft">{{ unit }}</small></span
          ><input v-model="typed[key]" inputmode="decimal" placeholder="its machine's own"
        /></label>
        <label class="field wide"><span>Notes</span><input v-model="typed.notes" maxlength="2000" /></label>
        <label class="check"
          ><input v-model="typed.countersign" type="checkbox" data-test="asks-countersign" /> Safety steps are
          countersigned before gauges go on</label
        >
      </div>
      <p v-if="failure" class="error" role="alert">{{ failure }}</p>
      <el-button type="primary" native-type="submit" :loading="busy" data-test="save-rig">Save</el-button>
      <FileButton accept="image/jpeg,image/png" data-test="take-photo" @change="photo">{{
        full.row.photo_at ? 'Another photo' : 'Add a photo'
      }}</FileButton>
      <el-button v-if="full.row.photo_at" @click="noPhoto">Take the photo off</el-button>
    </form>
    <table v-if="rig.channels?.length" class="list">
      <thead>
        <tr>
          <th>Channel</th>
          <th class="right">Register</th>
          <th>Type</th>
          <th>Unit</th>
          <th class="right">Offset</th>
          <th>Where</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="c in full.row.readings" :key="c.point">
          <td>{{ c.label }}</td>
          <template v-for="x in rig.channels?.filter((r) => r.point === c.point)" :key="x.register"
            ><td class="right num">{{ x.table }} {{ x.register }}</td>
            <td>{{ x.type }}</td>
            <td>{{ x.unit }}</td>
            <td class="right num">{{ x.offset || '' }}</td>
            <td>{{ x.where }}</td></template
          >
        </tr>
      </tbody>
    </table>
  </details>
</template>

<style scoped>
summary {
  cursor: pointer;
  display: flex;
  gap: 10px;
  align-items: baseline;
}
summary h2 {
  margin: 0;
}
.fields {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(200px, 1fr));
  gap: 8px 16px;
  margin: 10px 0;
}
.wide {
  grid-column: 1 / -1;
}
details.card {
  margin-top: 12px;
}
</style>
