<script setup lang="ts">
/** What a lab session is marked: part by part with reasons, what the rig said, the skills it showed. */
import type { Schemas } from '@/api/client'

defineProps<{ session: Schemas['LabSession']; result: Schemas['LabResult'] }>()
const share = (p: Schemas['LabPart']) => `${Math.round((100 * p.earned) / Math.max(p.points, 1))}%`
</script>

<template>
  <section class="result" aria-label="Marks" data-test="result">
    <h2>
      <span class="num">{{ result.earned }}</span> of {{ result.possible }}
    </h2>
    <p v-if="!result.logged" class="soft small">
      This rig has no logger, or it saw nothing: typed readings stand against the last calibration.
    </p>
    <ul class="parts">
      <li v-for="p in result.parts" :key="p.part">
        <div class="head">
          <b>{{ p.name }}</b><span class="num" :data-test="`part-${p.part}`">{{ p.earned }} of {{ p.points }}</span>
        </div>
        <div class="bar" aria-hidden="true"><i :style="{ width: share(p) }" /></div>
        <ul v-if="p.reasons.length" class="why">
          <li v-for="(r, i) in [...new Set(p.reasons)]" :key="i">{{ r }}</li>
        </ul>
      </li>
    </ul>
    <section v-if="result.outcome" class="rig">
      <h3>What the rig says</h3>
      <p :class="result.outcome.proved ? 'go' : 'stop'">
        {{
          result.outcome.proved
            ? 'The work did it: every figure in its band, settled.'
            : result.outcome.settled
              ? 'The work did not do it.'
              : 'The rig had not settled when the proof was read.'
        }}
      </p>
      <ul>
        <li v-for="f in result.outcome.figures" :key="f.text" :class="{ bad: !f.ok }">{{ f.text }}</li>
        <li v-for="l in result.outcome.limits" :key="l" class="bad">{{ l }}</li>
        <li v-if="result.outcome.missing">
          Missing {{ result.outcome.missing }}, planned {{ result.outcome.planned || 'nothing' }}, moved
          {{ result.outcome.moved || 'not weighed'
          }}<template v-if="result.outcome.overshot">, {{ result.outcome.most }} at the most</template>.
        </li>
      </ul>
    </section>
    <section v-if="result.skills.length">
      <h3>Skills shown</h3>
      <p class="skills">
        <span v-for="k in result.skills" :key="k.skill"
          ><b>{{ k.name }}</b> {{ k.level_text.toLowerCase() }}</span
        >
      </p>
    </section>
  </section>
</template>

<style scoped>
h2 {
  font-size: 24px;
  margin: 12px 0;
}
h3 {
  font-size: 16px;
  margin: 16px 0 4px;
}
.parts {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  gap: 10px;
}
.head {
  display: flex;
  justify-content: space-between;
}
.bar {
  height: 8px;
  background: var(--step-bars-bar-ground);
  border-radius: 2px;
}
.bar i {
  display: block;
  height: 100%;
  background: var(--violet);
  border-radius: 2px;
}
.why {
  margin: 4px 0 0;
  padding-left: 18px;
  color: var(--ink-soft);
  font-size: 14px;
}
.bad {
  color: var(--high-dark);
}
.go,
.stop {
  padding: 8px 10px;
  border-left: 5px solid var(--good);
  background: var(--violet-soft);
  margin: 6px 0;
}
.stop {
  border-color: var(--high);
  background: var(--high-tint);
}
.skills {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  margin: 0;
}
.skills span {
  padding: 3px 8px;
  border: 1px solid var(--violet-line);
  border-radius: 3px;
  background: var(--violet-soft);
}
</style>
