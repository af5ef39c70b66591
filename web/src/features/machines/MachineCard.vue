<script setup lang="ts">
/** One machine: its circuit with nothing wrong, its nameplate, what it teaches, what can be wrong with it, its charge. */
import { computed, ref, watch } from 'vue'
import { api, ask, type Schemas } from '@/api/client'
import CircuitPicture from '@/shared/circuit/CircuitPicture.vue'
import { useFailing } from '@/shared/failing'
import { units } from '@/shared/kept'
import ChargeCurve from './ChargeCurve.vue'

const props = defineProps<{ machine: Schemas['MachineRow']; catalogue: Schemas['CatalogueReply'] }>()
const { failure, attempt } = useFailing()
const bench = ref<Schemas['BenchReply'] | null>(null)
const page = ref<Schemas['MachinePage'] | null>(null)
const plate = computed(() => props.machine.plate[units.value])
const refrigeration = computed(() => props.machine.weather.some((w) => w.field === 'box_f'))
const faults = computed(() =>
  props.catalogue.faults.filter(
    (f) => f.id !== 'none' && f.acts_on === 'machine' && f.machines.includes(props.machine.id),
  ),
)
const readings = computed(() => {
  const usual = new Set(props.machine.points.filter((p) => p.usual).map((p) => p.id))
  return Object.fromEntries((bench.value?.readings ?? []).filter((r) => usual.has(r.id)).map((r) => [r.id, r.now.text]))
})
const names = computed(() => Object.fromEntries(props.machine.points.map((p) => [p.id, p.name])))
const weather = computed(() => {
  const none = { outdoor_db_f: 95, return_db_f: null, return_wb_f: null, box_f: null, water_in_f: null }
  return { ...none, ...Object.fromEntries(props.machine.weather.map((w) => [w.field, w.rated])) }
})

function load(): void {
  bench.value = page.value = null
  const id = props.machine.id
  void attempt(async () => {
    const [picture, more] = await Promise.all([
      ask(
        api.POST('/api/v1/bench', {
          body: {
            machine: id,
            altitude_ft: 0,
            instruments: 'digital',
            practice: 'plate_and_formula',
            units: units.value,
            faults: [],
            ...weather.value,
          },
        }),
      ),
      ask(
        api.GET('/api/v1/machines/{machine_id}/page', {
          params: { path: { machine_id: id }, query: { units: units.value } },
        }),
      ),
    ])
    if (id !== props.machine.id) return
    bench.value = picture
    page.value = more
  })
}
watch([() => props.machine.id, units], load, { immediate: true })
</script>

<template>
  <section class="card one" :aria-label="machine.name">
    <div class="head">
      <div>
        <h2 class="name">{{ machine.name }}</h2>
        <p class="soft">
          {{ machine.refrigerant }} ({{ machine.safety_class }}){{ machine.notes ? ` · ${machine.notes}` : '' }}
        </p>
      </div>
      <span class="acts"><slot /></span>
    </div>
    <p v-if="failure" class="error" role="alert">{{ failure }}</p>
    <div class="picture">
      <CircuitPicture
        :shape="{ ...machine, refrigeration }"
        :fill="bench?.fill ?? null"
        :fault-free="null"
        :readings="readings"
        :names="names"
        :given="null"
      />
    </div>
    <div class="two">
      <div>
        <h3>Teaches</h3>
        <ul class="teaches">
          <li v-for="t in page?.teaches ?? []" :key="t">{{ t }}</li>
        </ul>
        <h3>Charge, at the rating point</h3>
        <ChargeCurve v-if="page" :chart="page.chart" />
      </div>
      <div>
        <h3>Nameplate</h3>
        <dl>
          <template v-for="l in plate" :key="l.label"
            ><dt>{{ l.label }}</dt>
            <dd class="num">{{ l.text }}</dd></template
          >
        </dl>
      </div>
    </div>
    <h3>Faults it can have ({{ faults.length }})</h3>
    <ul class="faults">
      <li v-for="f in faults" :key="f.id">
        <RouterLink :to="`/reference/faults/${f.id}`">{{ f.name }}</RouterLink><small v-if="!f.on_paper" class="soft">
          bench only</small
        >
      </li>
    </ul>
  </section>
</template>

<style scoped>
.head {
  display: flex;
  justify-content: space-between;
  gap: 14px;
  align-items: flex-start;
}
.name {
  font-size: 20px;
  text-transform: none;
  letter-spacing: 0;
  color: var(--ink);
  margin: 0;
}
.head p {
  margin: 2px 0 8px;
}
.acts {
  flex-shrink: 0;
  display: flex;
  gap: 6px;
  flex-wrap: wrap;
}
.acts :deep(.el-button + .el-button) {
  margin-left: 0;
}
.picture {
  max-width: 640px;
  margin: 0 auto;
}
.two {
  display: grid;
  grid-template-columns: minmax(0, 1.15fr) minmax(0, 1fr);
  gap: 20px;
}
h3 {
  margin: 10px 0 4px;
  font-size: 14px;
}
.teaches {
  margin: 0;
  padding-left: 18px;
  font-size: 14px;
}
dl {
  display: grid;
  grid-template-columns: minmax(120px, auto) minmax(0, 1fr);
  gap: 2px 14px;
  margin: 0;
  font-size: 13.5px;
}
dt {
  color: var(--ink-soft);
}
dd {
  margin: 0;
  text-align: right;
  white-space: normal;
}
.faults {
  list-style: none;
  margin: 0;
  padding: 0;
  display: flex;
  flex-wrap: wrap;
  gap: 4px 16px;
  font-size: 14px;
}
.faults a {
  display: inline-block;
  min-height: 24px;
}
@media (max-width: 900px) {
  .two {
    grid-template-columns: 1fr;
  }
}
</style>
