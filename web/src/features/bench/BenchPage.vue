<script setup lang="ts">
import { computed, nextTick, ref } from 'vue'
import DialFace from '@/shared/DialFace.vue'
import ActPanel from '@/shared/ActPanel.vue'
import RemotePanel from '@/features/projector/RemotePanel.vue'
import { kept, units } from '@/shared/kept'
import BenchBar from './BenchBar.vue'
import CircuitPicture from '@/shared/circuit/CircuitPicture.vue'
import DigitalFace from '@/shared/circuit/DigitalFace.vue'
import RoomNumbers from './RoomNumbers.vue'
import RoomPicture from './RoomPicture.vue'
import RoomPanel from '@/shared/RoomPanel.vue'
import FigureBar from './FigureBar.vue'
import LoopPicture from './LoopPicture.vue'
import PlantPanel from './PlantPanel.vue'
import ProofPanel from './ProofPanel.vue'
import ShortcutList from './ShortcutList.vue'
import StoryPanel from './StoryPanel.vue'
import TestPanel from './TestPanel.vue'
import TrendPicture from './TrendPicture.vue'
import WeatherPanel from './WeatherPanel.vue'
import WhatIfPanel from './WhatIfPanel.vue'
import { severityText } from '@/shared/circuit/circuit'
import { useBench } from './useBench'
import { useSaving } from './useSaving'
import { useShortcuts, type Shortcut } from './shortcuts'
import { useRoomDay } from './useRoomDay'
import { useMoving } from './moving'
import { useReplay } from './useReplay'
import { useWhatIf } from './useWhatIf'
import { arrows } from '@/shared/tabs'
import RowsSkeleton from '@/shared/RowsSkeleton.vue'

const bench = useBench()
const { state, reply, failure, machine, rows, proof, shown, toggle, texts, names, give, history } = bench
const saving = useSaving(bench)
const what = useWhatIf(bench)
const TABS = [
  ['circuit', 'Circuit'],
  ['loop', 'P–h'],
  ['trend', 'Trends'],
  ['what', 'What if'],
  ['room', 'Room'],
  ['story', 'Story'],
] as const
const tab = kept<string>('bench.tab', 'circuit')
const replay = useReplay(bench, what, tab)
const day = useRoomDay(
  bench,
  computed(() => tab.value === 'room'),
)
const lively = kept('bench.lively', true)
const moving = useMoving(() => bench.body.value)
const projecting = ref(false)
const marks = computed(() =>
  rows.value.map((r, i) => ({
    place: r.kind.place,
    text: String(i + 1),
    name: `${r.kind.name} ${severityText(r.kind, r.severity, units.value)}`,
  })),
)
const frameTexts = computed(() =>
  Object.fromEntries(
    (what.frame.value?.readings ?? []).map((r) => [r.id, r.text]).filter(([id]) => shown.value.includes(id as string)),
  ),
)
/** Readings on the picture: the given ones, and the usual ones that are withheld, so that they can be given back. */
const drawn = computed(() => {
  const usual = new Set(machine.value?.points.filter((p) => p.usual).map((p) => p.id))
  return Object.fromEntries(Object.entries(texts.value).filter(([id]) => usual.has(id) || shown.value.includes(id)))
})
const more = computed(() => machine.value?.points.filter((p) => !shown.value.includes(p.id) && !p.usual) ?? [])
const held = computed(
  () =>
    machine.value?.points.filter((p) => p.needed && !shown.value.includes(p.id)).map((p) => p.name.toLowerCase()) ?? [],
)
/** The gauges as planted, or as they stand in the frame that is watched. */
const dials = computed(() =>
  (reply.value?.dials ?? []).map((d) => {
    const now = tab.value === 'what' ? what.frame.value : null
    if (!now) return d
    const text = now.readings.find((r) => r.id === gauge(d.side))?.text ?? ''
    return { ...d, needle_deg: now.needles[String(d.side)] ?? d.needle_deg, text, saturation: '' }
  }),
)
const DIALS = { low: 'suction_pressure', high: 'head_pressure' } as const
const gauge = (side: unknown) => DIALS[side as 'low' | 'high']

function find(selector: string): void {
  void nextTick(() => document.querySelector<HTMLElement>(selector)?.focus())
}
function nextLevel(): void {
  const row = rows.value.at(-1)
  if (!row) return
  history.settle()
  const at = row.marks.findIndex(([depth]) => Math.abs(depth - row.planted.depth) < 0.6)
  row.planted.depth = row.marks[(at + 1) % row.marks.length]?.[0] ?? row.planted.depth
}
function addReading(event: Event): void {
  const list = event.target as HTMLSelectElement
  if (list.value) toggle(list.value)
  list.value = ''
}
const keys: Shortcut[] = [
  { keys: 'f', does: 'find a fault to add', run: () => find('[data-test=fault] input') },
  { keys: 'l', does: 'last fault: mild, moderate, severe', run: nextLevel },
  {
    keys: 'x',
    does: 'remove the last fault',
    run: () => {
      const row = rows.value.at(-1)
      if (row) bench.remove(row.planted.id)
    },
  },
  { keys: 'z or Ctrl+Z', does: 'undo', run: () => history.undo() },
  { keys: 'Shift+Z or Ctrl+Shift+Z or Ctrl+Y', does: 'redo', run: () => history.redo() },
  { keys: '1', does: 'circuit', run: () => (tab.value = 'circuit') },
  { keys: '2', does: 'pressure and enthalpy', run: () => (tab.value = 'loop') },
  { keys: '3', does: 'trends', run: () => (tab.value = 'trend') },
  { keys: '4', does: 'what if', run: () => (tab.value = 'what') },
  { keys: '5', does: 'room, hour by hour', run: () => (tab.value = 'room') },
  { keys: '6', does: 'story', run: () => (tab.value = 'story') },
  {
    keys: 'g',
    does: 'give the first reading or test that tells them apart',
    run: () => {
      const s = proof.value?.splits[0]
      if (s) give(s)
    },
  },
  { keys: 't', does: 'ask for a test', run: () => find('[data-test=test] input') },
  { keys: 'n', does: 'name it (title)', run: () => find('[data-test=title]') },
  {
    keys: 's',
    does: 'save',
    run: () => {
      if (state.value.title.trim() && reply.value && !reply.value.trip) void saving.save()
    },
  },
  { keys: 'p', does: 'projector', run: () => (projecting.value = !projecting.value) },
  {
    keys: 'a',
    does: 'analog or digital gauges',
    run: () => (state.value.instruments = state.value.instruments === 'analogue' ? 'digital' : 'analogue'),
  },
  { keys: 'u', does: 'units', run: () => (units.value = units.value === 'us' ? 'si' : 'us') },
  { keys: 'm', does: 'motion on or off', run: () => (lively.value = !lively.value) },
  { keys: '?', does: 'this list', run: () => (shortcuts.open.value = true) },
]
const shortcuts = useShortcuts(keys)
const keysOpen = shortcuts.open
const keysOn = shortcuts.on
</script>

<template>
  <main class="bench-page">
    <h1 v-if="!reply?.trip" class="off">Bench: {{ machine?.name }}</h1>
    <BenchBar :bench="bench" :saving="saving" @project="projecting = !projecting" @keys="keysOpen = true" />
    <p v-if="replay.failure.value" class="error" role="alert">{{ replay.failure.value }}</p>
    <div :class="['bench', { moving }]">
      <section :class="['plant', { card: tab !== 'what' }]" :aria-label="tab === 'what' ? 'Act' : 'Faults'">
        <template v-if="tab !== 'what'"
          ><PlantPanel :bench="bench" /><WeatherPanel :bench="bench" /><RoomPanel
            v-if="tab === 'room'"
            :living="day"
            always
        /></template>
        <ActPanel v-else :work="what" />
      </section>

      <section class="middle" aria-label="The machine">
        <p v-if="failure" class="card error" role="alert">{{ failure }}</p>
        <RowsSkeleton v-else-if="!reply || !machine" :cards="3" />
        <div v-if="reply?.trip" class="card trip" role="status">
          <h1>The machine {{ reply.trip.sentence }}</h1>
          <p>The machine has cut out, so there is nothing to read. Reduce the fault or pick milder weather.</p>
          <el-button @click="history.undo()">Undo the last change</el-button>
        </div>
        <template v-else-if="reply && machine">
          <div class="card picture">
            <div class="tabs">
              <div role="tablist" aria-label="Pictures" @keydown.stop="arrows">
                <button
                  v-for="[id, name] in TABS"
                  :id="`tab-${id}`"
                  :key="id"
                  type="button"
                  role="tab"
                  :tabindex="tab === id ? 0 : -1"
                  :aria-selected="tab === id"
                  aria-controls="bench-view"
                  :data-test="`tab-${id}`"
                  @click="tab = id"
                >
                  {{ name }}
                </button>
              </div>
              <label v-if="tab === 'circuit'" class="more"
                ><span class="off">Add another reading</span
                ><select data-test="more" @change="addReading">
                  <option value="">add another reading…</option>
                  <option v-for="p in more" :key="p.id" :value="p.id">{{ p.name }}</option>
                </select></label
              >
            </div>
            <p v-if="reply.signs.length" class="signs" data-test="signs">{{ reply.signs.join(' ') }}</p>
            <div
              id="bench-view"
              :class="['view', { tall: tab !== 'circuit' && tab !== 'what' }]"
              role="tabpanel"
              :aria-labelledby="`tab-${tab}`"
            >
              <CircuitPicture
                v-if="tab === 'circuit'"
                :shape="{ ...machine, refrigeration: machine.weather.some((w) => w.field === 'box_f') }"
                :fill="reply.fill"
                :fault-free="reply.fault_free_fill"
                :readings="drawn"
                :names="names"
                :given="shown"
                :marks="marks"
                :lively="lively"
                @toggle="toggle"
              />
              <LoopPicture v-else-if="tab === 'loop'" :loop="reply.loop" :readings="texts" />
              <TrendPicture v-else-if="tab === 'trend'" :bench="bench" />
              <CircuitPicture
                v-else-if="tab === 'what'"
                :shape="{ ...machine, refrigeration: machine.weather.some((w) => w.field === 'box_f') }"
                :fill="what.frame.value?.fill ?? reply.fill"
                :fault-free="what.first.value?.fill ?? reply.fault_free_fill"
                :readings="what.frame.value ? frameTexts : drawn"
                :names="names"
                :given="null"
                :lively="lively"
              />
              <RoomPicture v-else-if="tab === 'room'" :day="day" />
              <StoryPanel v-else :bench="bench" />
            </div>
            <ul v-if="tab === 'circuit' || tab === 'what'" class="legend" aria-label="Key to the picture">
              <li><i class="boil" />boiling</li>
              <li><i class="gas" />cool gas</li>
              <li><i class="hot" />hot gas</li>
              <li><i class="mix" />condensing</li>
              <li><i class="liquid" />liquid</li>
              <li><i class="ghost" />{{ tab === 'what' && what.reply.value ? 'as it was found' : 'normal' }}</li>
              <li class="end">{{ tab === 'circuit' ? 'click a reading to give or withhold it' : '' }}</li>
            </ul>
          </div>
          <WhatIfPanel v-if="tab === 'what'" :what="what" />
          <RoomNumbers v-else-if="tab === 'room'" :day="day" />
          <div v-else class="card figures"><FigureBar v-for="f in reply.figures" :key="f.id" :figure="f" /></div>
          <ProofPanel :bench="bench" />
          <p v-if="held.length" class="soft held">
            On paper {{ held.join(', ') }} {{ held.length > 1 ? 'are' : 'is' }} printed all the same: without
            {{ held.length > 1 ? 'them' : 'it' }} the sheet's questions cannot be answered.
          </p>
        </template>
      </section>

      <section v-if="reply && !reply.trip" class="side" aria-label="Gauges and tests">
        <div class="dials card">
          <div class="kind">
            <el-radio-group v-model="state.instruments" size="small" aria-label="Gauges"
              ><el-radio-button value="analogue">analog</el-radio-button
              ><el-radio-button value="digital">digital</el-radio-button></el-radio-group
            >
          </div>
          <figure v-for="d in dials" :key="String(d.side)" :class="{ withheld: !shown.includes(gauge(d.side)) }">
            <component :is="state.instruments === 'digital' ? DigitalFace : DialFace" :drawing="d" />
            <figcaption>
              <span class="num">{{ d.text }}</span><span class="soft">{{ d.saturation }}</span
              ><button
                type="button"
                :aria-pressed="shown.includes(gauge(d.side))"
                :aria-label="`${shown.includes(gauge(d.side)) ? 'given' : 'withheld'}: ${names[gauge(d.side)]?.toLowerCase() ?? ''}`"
                :data-reading="gauge(d.side)"
                @click="toggle(gauge(d.side))"
              >
                {{ shown.includes(gauge(d.side)) ? 'given' : 'withheld' }}
              </button>
            </figcaption>
          </figure>
        </div>
        <TestPanel :bench="bench" />
      </section>
    </div>
    <RemotePanel v-model:open="projecting" :bench="bench" />
    <ShortcutList v-model:open="keysOpen" v-model:on="keysOn" :list="keys" />
  </main>
</template>

<style scoped>
.bench {
  display: grid;
  grid-template-columns: 266px minmax(0, 1fr) 232px;
  gap: 10px;
  padding: 8px 14px 12px;
  max-width: 1720px;
  margin: 0 auto;
}
.moving :deep(*) {
  transition: none !important;
  animation-play-state: paused !important;
}
.plant,
.side {
  max-height: calc(100vh - 112px);
  overflow: auto;
}
.plant.card {
  padding: 10px 14px;
  scrollbar-gutter: stable;
}
.middle {
  min-width: 0;
  display: flex;
  flex-direction: column;
  gap: 8px;
}
.side {
  display: flex;
  flex-direction: column;
  gap: 8px;
}
.picture {
  padding: 4px 12px 4px;
}
.tabs {
  display: flex;
  align-items: center;
  gap: 2px;
  border-bottom: 1px solid var(--line);
}
.tabs button {
  border: 0;
  background: none;
  padding: 6px 12px;
  font-size: 14px;
  cursor: pointer;
  color: var(--ink);
  border-bottom: 3px solid transparent;
  white-space: nowrap;
}
.tabs button[aria-selected='true'] {
  font-weight: 700;
  color: var(--violet);
  border-bottom-color: var(--violet);
}
.signs {
  margin: 4px 0 0;
  color: var(--amber-deep);
  font-weight: 600;
  font-size: 13px;
}
.more {
  margin-left: auto;
}
.more select {
  width: 158px;
  font-size: 12.5px;
}
.view {
  height: clamp(250px, calc(100vh - 470px), 560px);
  padding-top: 6px;
}
.view.tall {
  height: clamp(268px, calc(100vh - 452px), 578px);
}
.legend {
  display: flex;
  flex-wrap: wrap;
  gap: 0 12px;
  list-style: none;
  margin: 0;
  padding: 0;
  font-size: 12px;
  color: var(--ink-soft);
}
.legend .end {
  margin-left: auto;
}
.legend i {
  display: inline-block;
  width: 17px;
  height: 8px;
  margin-right: 4px;
  border: 1px solid var(--ink-faint);
  border-radius: 2px;
}
.legend .boil {
  background: var(--low-bright);
}
.legend .gas {
  background: var(--low-tint);
}
.legend .hot {
  background: var(--high-tint-strong);
}
.legend .mix {
  background: var(--high-line);
}
.legend .liquid {
  background: var(--high-dark);
}
.legend .ghost {
  background: var(--white);
  border: 2px solid var(--violet);
  width: 9px;
  height: 9px;
  transform: rotate(45deg);
}
.figures {
  display: grid;
  grid-template-columns: repeat(4, minmax(0, 1fr));
  gap: 8px 18px;
  padding: 7px 12px;
}
.held {
  margin: 0;
  font-size: 12.5px;
}
.trip {
  border-left: 6px solid var(--amber);
  padding: 40px;
}
.dials {
  padding: 6px 10px;
  display: grid;
  gap: 4px;
}
.kind {
  text-align: center;
}
figure {
  margin: 0;
}
figure.withheld {
  outline: 2px dashed var(--ink-faint);
  outline-offset: 1px;
}
figure.withheld .num {
  text-decoration: line-through;
}
figcaption {
  display: flex;
  align-items: baseline;
  justify-content: space-between;
  gap: 6px;
  font-size: 12px;
}
figcaption .num {
  font-weight: 700;
  font-size: 13px;
}
figcaption button {
  border: 1px solid var(--edge);
  border-radius: 9px;
  background: var(--card);
  font-size: 11.5px;
  padding: 0 8px;
  cursor: pointer;
  color: var(--ink);
}
figcaption button[aria-pressed='false'] {
  border-style: dashed;
}
@media (max-width: 1180px) {
  .figures {
    grid-template-columns: 1fr 1fr;
  }
  .bench {
    grid-template-columns: 250px minmax(0, 1fr) 200px;
  }
}
@media (max-width: 1000px) {
  .bench {
    grid-template-columns: 1fr;
  }
  .plant,
  .side {
    max-height: none;
  }
  .view,
  .view.tall {
    height: auto;
    min-height: 300px;
  }
  .figures {
    grid-template-columns: 1fr 1fr;
  }
}
</style>
