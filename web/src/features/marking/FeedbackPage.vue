<script setup lang="ts">
import { computed, onMounted, ref } from 'vue'
import { useRoute } from 'vue-router'
import { api, ask, type Schemas } from '@/api/client'
import { useFailing } from '@/shared/failing'
import { tr } from '@/shared/language'
import { user } from '@/shared/session'
import RubricLines from './RubricLines.vue'
import RowsSkeleton from '@/shared/RowsSkeleton.vue'

/** Feedback on one paper: for the instructor any paper, for an apprentice their own once it is released. */
const code = String(useRoute().params.code)
const told = ref<Schemas['FeedbackReply'] | null>(null)
const { failure, attempt } = useFailing()
const calls = computed(() => told.value?.calls ?? [])
const teaches = computed(() => user.value?.role === 'instructor')
const next = computed(() => told.value?.next)
type Row = Schemas['FeedbackReply']['calls'][number]['steps'][number]['rows'][number]
function signOf(r: Row): string {
  if (r.excluded) return r.right ? '✓' : '✗'
  return r.earned >= r.points ? '✓' : r.earned ? '½' : '✗'
}
onMounted(() =>
  attempt(async () => {
    const path = { params: { path: { code } } }
    told.value = teaches.value
      ? await ask(api.GET('/api/v1/papers/{code}/feedback', path))
      : await ask(api.GET('/api/v1/mine/{code}', path))
  }),
)
</script>

<template>
  <main class="page">
    <p v-if="failure" class="error" role="alert">{{ failure }}</p>
    <RowsSkeleton v-else-if="!told" :cards="3" />
    <template v-if="told">
      <div class="page-head">
        <div>
          <h1>{{ told.name }}</h1>
          <span class="soft"
            >{{ told.sheet_title }} · <span class="num">{{ told.code }}</span></span
          >
        </div>
        <div class="sum">
          <b class="num">{{ told.earned }}/{{ told.possible }}</b
          ><a v-if="teaches" :href="`/api/v1/papers/${told.code}/feedback.pdf`" target="_blank">Print</a>
        </div>
      </div>
      <p v-if="!calls.length" class="empty">{{ tr('Nothing on this paper is marked yet.') }}</p>
      <section v-for="c in calls" :key="c.position" class="card call">
        <h2>{{ tr('Call') }} {{ c.position }} · {{ c.title }} · {{ c.earned }} / {{ c.possible }}</h2>
        <details v-if="c.shown.length" class="shown" :open="c.shown.length <= 14">
          <summary>{{ tr('Readings') }}</summary>
          <dl>
            <div v-for="one in c.shown" :key="one.label">
              <dt>{{ one.label }}</dt>
              <dd class="num">{{ one.text }}</dd>
            </div>
          </dl>
        </details>
        <div v-for="s in c.steps" :key="s.step" class="step">
          <h3>{{ s.name }}</h3>
          <div
            v-for="r in s.rows"
            :key="r.question"
            class="line"
            :class="{ lost: r.earned < r.points, excluded: r.excluded }"
          >
            <span class="sign num" :aria-label="r.excluded ? tr('not counted') : `${r.earned} / ${r.points}`">{{
              signOf(r)
            }}</span>
            <span class="what">{{ r.text }}</span>
            <span class="own num">{{ r.own || '–' }}</span>
            <span v-if="r.earned < r.points || r.differs || (r.excluded && !r.right)" class="exp"
              >{{ tr('expected') }} <b>{{ r.expected }} {{ r.unit }}</b></span
            >
            <p v-if="r.excluded">
              {{ tr(r.right ? 'Excluded from the score; the answer is correct.' : 'Excluded from the score.') }}
            </p>
            <p v-else-if="r.earned < r.points || r.again || r.differs">
              {{ r.why }} <b v-if="r.again">{{ r.again }}</b>
            </p>
          </div>
        </div>
        <p v-if="c.hazard" class="caution">{{ c.hazard }}</p>
      </section>
      <RubricLines />
      <section v-if="next" class="card next">
        <h2>{{ tr('Next') }}</h2>
        <p>{{ next.reason }} {{ tr('Level') }} {{ next.level }}.</p>
      </section>
    </template>
  </main>
</template>

<style scoped>
.page {
  max-width: 900px;
}
.sum {
  display: flex;
  gap: 16px;
  align-items: baseline;
}
.sum b {
  font-size: 26px;
}
.call {
  margin-bottom: 14px;
}
.step {
  padding: 4px 0;
  border-top: 1px solid var(--line);
}
.step h3 {
  font-size: 13px;
  margin: 2px 0;
  color: var(--ink-soft);
}
.line {
  display: grid;
  grid-template-columns: 26px minmax(0, 1fr) auto auto;
  gap: 0 12px;
  padding: 2px 6px;
  align-items: baseline;
}
.line p {
  grid-column: 2 / -1;
  margin: 0 0 4px;
  font-size: 14px;
}
.sign {
  color: var(--good);
  font-weight: 700;
}
.excluded,
.excluded .sign {
  color: var(--ink-soft);
}
.shown {
  margin: 0 0 8px;
  font-size: 14px;
}
.shown summary {
  cursor: pointer;
  color: var(--violet);
  min-height: 24px;
}
.shown dl {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(230px, 1fr));
  gap: 2px 18px;
  margin: 4px 0 0;
}
.shown dl div {
  display: flex;
  justify-content: space-between;
  gap: 10px;
  border-bottom: 1px solid var(--line);
}
.shown dd {
  margin: 0;
  font-weight: 600;
  white-space: nowrap;
}
.lost {
  background: var(--high-tint);
}
.lost .sign {
  color: var(--high);
}
.own {
  font-weight: 700;
  white-space: normal;
}
.exp {
  font-size: 14px;
}
.caution {
  border-left: 4px solid var(--amber);
  padding-left: 10px;
  margin: 8px 0 0;
}
@media (max-width: 560px) {
  .line {
    grid-template-columns: 22px minmax(0, 1fr) auto;
  }
  .exp,
  .own {
    grid-column: 2 / -1;
  }
  .page {
    padding: 14px 12px;
  }
}
</style>
