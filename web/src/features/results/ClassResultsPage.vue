<script setup lang="ts">
import { computed, onMounted, ref } from 'vue'
import { useRoute } from 'vue-router'
import { api, ask, type Schemas } from '@/api/client'
import ChartPicture from '@/shared/ChartPicture.vue'
import { useFailing } from '@/shared/failing'
import { confusionOption, levelWord, movementOption, type Picture } from './charts'
import StepBars from './StepBars.vue'
import RowsSkeleton from '@/shared/RowsSkeleton.vue'

const id = Number(useRoute().params.id)
const picture = ref<Picture | null>(null)
const row = ref<Schemas['ClassRow'] | null>(null)
const picked = ref<number | null>(null)
const { failure, attempt } = useFailing()
const confusion = computed(() => picture.value?.confusion)
const steps = computed(() => picture.value?.steps ?? [])
const calls = computed(() => picture.value?.calls ?? [])
const people = computed(() => picture.value?.people ?? [])
const sheets = computed(() => picture.value?.sheets ?? [])
const skills = computed(() => picture.value?.skills ?? [])
const pct = (share: number | null) => (share === null ? '–' : `${Math.round(share * 100)} %`)
const chosen = computed(() => people.value.find((p) => p.apprentice === picked.value) ?? null)
const movement = computed(() =>
  movementOption(
    sheets.value,
    chosen.value
      ? {
          name: chosen.value.name,
          shares: sheets.value.map((s) => chosen.value?.sheets.find((m) => m.order === s.order)?.share ?? null),
        }
      : null,
  ),
)
const worst = computed(
  () => confusion.value?.cells.filter((c) => c.planted !== c.named).sort((a, b) => b.count - a.count)[0],
)
const name = (fault: string) => confusion.value?.faults.find((f) => f.id === fault)?.name ?? fault
onMounted(() =>
  attempt(async () => {
    const path = { params: { path: { class_id: id } } }
    row.value = await ask(api.GET('/api/v1/classes/{class_id}', path))
    picture.value = await ask(api.GET('/api/v1/classes/{class_id}/results', path))
  }),
)
</script>

<template>
  <main class="page">
    <p v-if="failure" class="error" role="alert">{{ failure }}</p>
    <RowsSkeleton v-else-if="!row" :cards="3" />
    <div v-if="row" class="page-head">
      <div>
        <h1>{{ row.name }}</h1>
        <span class="soft"
          >{{ row.term }}{{ row.term ? ' · ' : '' }}{{ row.size }} apprentices, {{ sheets.length }} sheets marked</span
        >
      </div>
      <span class="files"
        ><a :href="`/api/v1/classes/${id}/gradebook.xlsx`">Gradebook XLSX</a
        ><a :href="`/api/v1/classes/${id}/gradebook.csv`">CSV</a></span
      >
    </div>
    <div v-if="picture && !sheets.length" class="empty">
      <p>Nothing marked yet. What this class does not understand shows here once a sheet is marked.</p>
      <RouterLink to="/marking">Mark papers</RouterLink>
    </div>
    <div v-else-if="picture && confusion" class="grid">
      <section class="card confused" tabindex="0" aria-label="What is taken for what">
        <h2>Faults mistaken for others</h2>
        <p class="soft">
          {{ confusion.right }} named correctly, {{ confusion.wrong }} not<template v-if="worst && worst.count > 1"
            >; most often <b>{{ name(worst.planted) }}</b> for <b>{{ name(worst.named) }}</b></template
          >. Down: hidden. Across: named.
        </p>
        <div class="heat" :style="{ height: `${130 + 44 * confusion.planted.length}px` }">
          <ChartPicture :option="confusionOption(confusion)" said="Hidden faults against the faults that were named" />
        </div>
      </section>
      <section class="card">
        <h2>Where marks are lost</h2>
        <StepBars :steps="steps" />
      </section>
      <section class="card" tabindex="0" aria-label="Calls: difficulty stated and found">
        <h2>Difficulty, stated and found</h2>
        <table class="list">
          <thead>
            <tr>
              <th>Call</th>
              <th class="right">Stated</th>
              <th class="right">Found</th>
              <th class="right">Earned</th>
              <th class="right" title="Share expected to name what is wrong, and share that did">Named</th>
              <th><span class="off">Note</span></th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="c in calls" :key="`${c.order}.${c.position}`">
              <td>
                {{ c.sheet }} <small class="soft">call {{ c.position }}</small>
              </td>
              <td class="right num">{{ c.stated ?? '–' }}</td>
              <td class="right num">{{ c.found ?? '–' }}</td>
              <td class="right num">{{ pct(c.share) }}</td>
              <td class="right num">
                <span v-if="c.expected !== null" class="soft" title="expected">{{ pct(c.expected) }} → </span
                >{{ pct(c.named) }}
              </td>
              <td class="soft">{{ levelWord(c) }}</td>
            </tr>
          </tbody>
        </table>
      </section>
      <section class="card">
        <h2>Progress over the term</h2>
        <div class="line"><ChartPicture :option="movement" said="Share of the points earned on each sheet" /></div>
      </section>
      <section class="card">
        <h2>Each apprentice</h2>
        <table class="list">
          <thead>
            <tr>
              <th>Name</th>
              <th class="right">Earned</th>
              <th>Weakest</th>
              <th><span class="off">More</span></th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="p in people" :key="p.apprentice">
              <td>
                <RouterLink :to="`/apprentices/${p.apprentice}`">{{ p.name }}</RouterLink>
              </td>
              <td class="right num">{{ pct(p.share) }}</td>
              <td class="soft">{{ p.weak.join(', ') }}</td>
              <td class="right">
                <button
                  class="pick"
                  :aria-pressed="picked === p.apprentice"
                  @click="picked = picked === p.apprentice ? null : p.apprentice"
                >
                  {{ picked === p.apprentice ? 'drawn' : 'draw' }}
                </button>
              </td>
            </tr>
          </tbody>
        </table>
      </section>
      <section class="card">
        <h2>Each skill, weakest first</h2>
        <table class="list">
          <tbody>
            <tr v-for="s in skills" :key="s.skill">
              <td>{{ s.name }}</td>
              <td class="right num">{{ pct(s.share) }}</td>
              <td class="soft">{{ s.papers }} papers</td>
            </tr>
          </tbody>
        </table>
      </section>
    </div>
  </main>
</template>

<style scoped>
.page {
  max-width: 1280px;
}
.files {
  display: flex;
  gap: 14px;
}
.grid {
  display: grid;
  grid-template-columns: repeat(2, minmax(0, 1fr));
  gap: 14px;
  align-items: start;
}

.line {
  height: 240px;
}
.list td {
  padding: 4px 8px;
  font-size: 14px;
}
.list th {
  padding: 3px 8px;
}
.pick {
  border: 1px solid var(--edge);
  background: none;
  border-radius: 3px;
  cursor: pointer;
  padding: 1px 8px;
  min-height: 24px;
  color: var(--ink);
}
.pick[aria-pressed='true'] {
  background: var(--violet);
  color: var(--white);
}
@media (max-width: 900px) {
  .grid {
    grid-template-columns: 1fr;
  }
}
.page-head h1,
.page-head h1 + .soft {
  overflow-wrap: anywhere;
}
</style>
