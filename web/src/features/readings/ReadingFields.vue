<script setup lang="ts">
/** What somebody read, inspected and tested on any machine. */
import { computed, nextTick, ref } from 'vue'
import type { Schemas } from '@/api/client'
import { units } from '@/shared/kept'
import { CONDENSERS, METERING } from '@/shared/words'
import CheckSelect from './CheckSelect.vue'
import { AIR, APPLICATIONS, READINGS, type FieldRow, type ReadingsForm } from './form'

const form = defineModel<ReadingsForm>({ required: true })
const props = defineProps<{ catalogue: Schemas['CatalogueReply'] | null }>()
const others = ref<HTMLDetailsElement | null>(null)
/** Looks that every visit has; the rest stands one click away. */
const USUAL = [
  'filter',
  'condenser_coil',
  'evaporator_coil',
  'evaporator_ice',
  'bulb',
  'condenser_fan',
  'oil_traces',
  'condenser_wet',
]
const refrigerants = computed(() =>
  [...new Set(props.catalogue?.machines.map((m) => m.refrigerant) ?? ['R-410A'])].sort(),
)
const checks = computed(() => props.catalogue?.checks ?? [])
const tests = computed(() => checks.value.filter((c) => c.kind === 'test'))
const usual = computed(() => checks.value.filter((c) => USUAL.includes(c.id)))
const more = computed(() => checks.value.filter((c) => c.kind === 'look' && !USUAL.includes(c.id)))
const unit = (row: FieldRow) =>
  row.kind === 'pressure'
    ? units.value === 'us'
      ? 'psig'
      : 'kPa'
    : units.value === 'us'
      ? '°F'
      : row.kind === 'difference'
        ? 'K'
        : '°C'

/** Put the hand on a field, wherever it stands. */
async function go(kind: string, id: string): Promise<void> {
  if (kind === 'look' && more.value.some((c) => c.id === id) && others.value) others.value.open = true
  await nextTick()
  const field = document.querySelector<HTMLElement>(`.form [data-test="${kind === 'reading' ? id : `${kind}-${id}`}"]`)
  field?.scrollIntoView({ block: 'center' })
  field?.focus()
}
defineExpose({ go })
</script>

<template>
  <form class="card form" aria-label="Readings taken" @submit.prevent>
    <h2>Machine</h2>
    <div class="grid">
      <label
        ><span>Refrigerant</span
        ><select v-model="form.machine.refrigerant">
          <option v-for="r in refrigerants" :key="r">{{ r }}</option>
        </select></label
      >
      <label
        ><span>Metering device</span
        ><select v-model="form.machine.metering">
          <option v-for="(text, id) in METERING" :key="id" :value="id">{{ text }}</option>
        </select></label
      >
      <label
        ><span>Application</span
        ><select v-model="form.machine.application">
          <option value="">not known</option>
          <option v-for="(text, id) in APPLICATIONS" :key="id" :value="id">{{ text }}</option>
        </select></label
      >
      <label
        ><span>Condenser</span
        ><select v-model="form.machine.condenser">
          <option value="">not known</option>
          <option v-for="(text, id) in CONDENSERS" :key="id" :value="id">{{ text }}</option>
        </select></label
      >
      <label
        ><span>Receiver</span
        ><select v-model="form.machine.receiver">
          <option value="">not known</option>
          <option>no</option>
          <option>yes</option>
        </select></label
      >
      <label
        ><span>Nameplate subcooling</span
        ><span class="entry"
          ><input v-model="form.machine.subcooling" inputmode="decimal" /><i>{{ units === 'us' ? '°F' : 'K' }}</i></span
        ></label
      >
    </div>
    <h2>Air</h2>
    <div class="grid four">
      <label v-for="r in AIR" :key="r.id"
        ><span>{{ r.label }}</span
        ><span class="entry"
          ><input v-model="form.conditions[r.id]" inputmode="decimal" :data-test="r.id" /><i>{{ unit(r) }}</i></span
        ></label
      >
    </div>
    <h2>Readings <small class="soft">leave out what was not read; “92 to 98” where it swings</small></h2>
    <div class="grid four">
      <label v-for="r in READINGS" :key="r.id"
        ><span>{{ r.label }}</span
        ><span class="entry"
          ><input v-model="form.readings[r.id]" inputmode="decimal" :data-test="r.id" /><i>{{ unit(r) }}</i></span
        ></label
      >
    </div>
    <h2>Tests</h2>
    <div class="grid four">
      <CheckSelect v-for="c in tests" :key="c.id" v-model="form.tests[c.id]" :check="c" :data-test="`test-${c.id}`" />
      <label class="tick"><input v-model="form.settled" type="checkbox" /> ran 10 to 15 minutes, stabilized</label>
    </div>
    <h2>Inspection</h2>
    <div class="grid four">
      <CheckSelect
        v-for="c in usual"
        :key="c.id"
        v-model="form.looked_at[c.id]"
        :check="c"
        :data-test="`look-${c.id}`"
      />
    </div>
    <details ref="others">
      <summary>More to inspect ({{ more.length }})</summary>
      <div class="grid four">
        <CheckSelect
          v-for="c in more"
          :key="c.id"
          v-model="form.looked_at[c.id]"
          :check="c"
          :data-test="`look-${c.id}`"
        />
      </div>
    </details>
  </form>
</template>

<style scoped>
.form {
  padding: 10px 14px;
}
h2 {
  margin: 8px 0 3px;
  display: flex;
  gap: 10px;
  align-items: baseline;
}
h2:first-child {
  margin-top: 0;
}
h2 small {
  font-weight: 400;
  font-size: 12px;
  text-transform: none;
  letter-spacing: 0;
}
.grid {
  display: grid;
  grid-template-columns: repeat(3, minmax(0, 1fr));
  gap: 5px 12px;
}
.grid.four {
  grid-template-columns: repeat(4, minmax(0, 1fr));
}
label {
  display: block;
  font-size: 12px;
}
label > span:first-child {
  display: block;
  color: var(--ink-mid);
}
select,
input:not([type]),
.entry input {
  width: 100%;
}
.entry {
  display: flex;
  align-items: center;
  gap: 4px;
}
.entry i {
  font-style: normal;
  font-size: 11.5px;
  width: 30px;
  color: var(--ink-mid);
}
.tick {
  display: flex;
  align-items: center;
  gap: 6px;
  font-size: 13px;
  grid-column: span 2;
}
summary {
  cursor: pointer;
  color: var(--violet);
  margin: 6px 0 4px;
  min-height: 24px;
}
@media (max-width: 700px) {
  .grid,
  .grid.four {
    grid-template-columns: 1fr 1fr;
  }
}
@media print {
  .form {
    border: 0;
    padding: 0;
  }
  details:not([open]) {
    display: none;
  }
}
</style>
