<script setup lang="ts">
/** What somebody can do at a rig: every skill with how far they are, and what showed it last. */
import type { Schemas } from '@/api/client'
import { localTime } from '@/shared/session'

defineProps<{ rows: Schemas['RigSkillRow'][] }>()
const STEPS = ['shown', 'helped', 'alone']
const reached = (level: string) => STEPS.indexOf(level) + 1
</script>

<template>
  <section class="card" tabindex="0" aria-label="Skills at the rig" data-test="skills">
    <header>
      <h2>Skills at the rig</h2>
      <slot />
    </header>
    <table class="list">
      <thead>
        <tr>
          <th>Skill</th>
          <th>How far</th>
          <th class="right">Times</th>
          <th>Last seen</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="r in rows" :key="r.skill">
          <td>{{ r.name }}</td>
          <td>
            <span class="steps" aria-hidden="true"
              ><i v-for="n in 3" :key="n" :class="{ on: n <= reached(r.level) }" /></span
            >{{ r.level_text || 'not yet' }}
          </td>
          <td class="right num">{{ r.times || '' }}</td>
          <td class="soft">
            <template v-if="r.evidence.length"
              ><RouterLink :to="`/lab/${r.evidence.at(-1)!.session_id}`"
                >{{ localTime(r.evidence.at(-1)!.at) }}, {{ r.evidence.at(-1)!.rig }}</RouterLink
              >: {{ r.evidence.at(-1)!.evidence }}</template
            >
          </td>
        </tr>
      </tbody>
    </table>
  </section>
</template>

<style scoped>
header {
  display: flex;
  justify-content: space-between;
  align-items: baseline;
  gap: 12px;
}
h2 {
  font-size: 16px;
  margin: 0 0 8px;
}
.card {
  overflow-x: auto;
}
.steps {
  display: inline-flex;
  gap: 3px;
  margin-right: 8px;
}
.steps i {
  width: 14px;
  height: 10px;
  border: 1px solid var(--violet);
  border-radius: 2px;
}
.steps i.on {
  background: var(--violet);
}
</style>
