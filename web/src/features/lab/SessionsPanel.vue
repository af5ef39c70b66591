<script setup lang="ts">
/** The sessions of the lab on its floor: where each stands, who asks for help, which plan waits, one tap to answer. */
import { computed, ref } from 'vue'
import { api, ask, type Schemas } from '@/api/client'
import { useFailing } from '@/shared/failing'
import { useTicking } from '@/features/rigs/useLab'
import SignOff from './SignOff.vue'
import { drawn, since } from './session'

const emit = defineEmits<{ busy: [rigs: Set<number>] }>()
const rows = ref<Schemas['LabRow'][]>([])
const now = ref(Date.now())
const { failure, attempt } = useFailing()
const live = computed(() => rows.value.filter((r) => !r.ended_at))
const past = computed(() => rows.value.filter((r) => r.ended_at).slice(0, 6))
useTicking(async () => {
  const found = await ask(api.GET('/api/v1/lab/sessions'))
  rows.value = found.sessions
  now.value = Date.parse(found.now)
  emit('busy', new Set(live.value.map((r) => r.rig_id ?? 0)))
})
const say = (id: number, kind: string, data: Record<string, unknown> = {}) =>
  attempt(async () => {
    const at = Date.now() / 1000
    const body = { now: at, events: [{ id: drawn(), at, kind, data }], units: 'us' as const }
    const { told } = await ask(
      api.POST('/api/v1/lab/sessions/{session_id}/events', { params: { path: { session_id: id } }, body }),
    )
    if (told[0]?.refused) throw new Error(told[0].refused)
  })
</script>

<template>
  <section v-if="rows.length" class="sessions" aria-label="Lab sessions" data-test="sessions">
    <p v-if="failure" class="error" role="alert">{{ failure }}</p>
    <article v-for="r in live" :key="r.id" :class="['card', r.status]" data-test="session">
      <header>
        <RouterLink :to="`/lab/${r.id}`"
          ><b>{{ r.rig }}</b></RouterLink
        >
        <span>{{ r.people.join(', ') }}</span>
        <span class="soft"
          >{{ r.phase_name }} <span class="num">{{ since(r.phase_since, now) }}</span></span
        >
      </header>
      <SignOff
        :session="{ ...r, forecast: r.plan }"
        @say="(kind: string, data?: Record<string, unknown>) => say(r.id, kind, data)"
      />
    </article>
    <p v-if="past.length" class="past soft">
      Ended:
      <RouterLink v-for="r in past" :key="r.id" :to="`/lab/${r.id}`"
        >{{ r.rig }}, {{ r.people.join(', ') }}
        <b v-if="r.possible" class="num">{{ r.earned }} of {{ r.possible }}</b></RouterLink
      >
    </p>
  </section>
</template>

<style scoped>
.sessions {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(380px, 1fr));
  gap: 12px;
  margin-bottom: 14px;
}
@media (max-width: 460px) {
  .sessions {
    grid-template-columns: minmax(0, 1fr);
  }
}
header {
  display: flex;
  gap: 4px 12px;
  flex-wrap: wrap;
  margin-bottom: 6px;
}
header .soft {
  margin-left: auto;
}
.help,
.sign-off {
  border-color: var(--amber);
  box-shadow: inset 5px 0 var(--amber);
}
.past {
  grid-column: 1 / -1;
  display: flex;
  gap: 4px 14px;
  flex-wrap: wrap;
  margin: 0;
}
</style>
