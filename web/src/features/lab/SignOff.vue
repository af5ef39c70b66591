<script setup lang="ts">
/** A plan that waits: what was found, what is to be done, what it would do to the rig as it stands, and one tap. */
import { ref } from 'vue'
import type { Seen } from './session'

defineProps<{
  session: Pick<Seen, 'signed' | 'why' | 'wants_help' | 'countersign' | 'countersigned' | 'safety_ticked' | 'forecast'>
}>()
const emit = defineEmits<{ say: [kind: string, data?: Record<string, unknown>] }>()
const why = ref('')
const asking = ref(false)
function stop(): void {
  if (!why.value.trim()) return void (asking.value = true)
  emit('say', 'stop', { why: why.value })
  why.value = ''
  asking.value = false
}
</script>

<template>
  <div class="sign">
    <p v-if="session.wants_help" class="call" role="alert">
      <b>They ask for help.</b>
      <el-button data-test="helped" @click="emit('say', 'helped', {})">I was there</el-button>
    </p>
    <p v-if="session.countersign && !session.countersigned" class="call">
      <span
        ><b>Safety steps:</b> {{ session.safety_ticked }} ticked, not countersigned. Gauges stay off until you do.</span
      >
      <el-button data-test="countersign" @click="emit('say', 'countersign')">Countersign</el-button>
    </p>
    <section v-if="session.forecast && session.signed" class="card plan" aria-label="Plan" data-test="plan">
      <h2>Plan</h2>
      <dl>
        <div>
          <dt>Wrong</dt>
          <dd>{{ session.forecast.fault }}</dd>
        </div>
        <div>
          <dt>First</dt>
          <dd>{{ session.forecast.action }}</dd>
        </div>
        <div>
          <dt>Refrigerant</dt>
          <dd class="num">{{ session.forecast.amount || 'none' }}</dd>
        </div>
      </dl>
      <p v-for="w in session.forecast.warnings" :key="w" class="warn" role="alert">{{ w }}</p>
      <p class="soft">
        {{ session.forecast.text }}
        <small v-if="session.forecast.by === 'rig'">By this rig as it was calibrated, from where it stands now.</small>
        <small v-else>By its last calibration in the weather the session began with: no logger.</small>
      </p>
      <template v-if="session.signed === 'asked'">
        <div class="words">
          <button type="button" class="go" data-test="go" @click="emit('say', 'go', {})">Go ahead</button>
          <button type="button" class="stop" data-test="stop" @click="stop">Stop, tell me why</button>
        </div>
        <label v-if="asking || why" class="why"
          ><span>What you tell them</span><input v-model="why" maxlength="600" data-test="why" @keyup.enter="stop"
        /></label>
      </template>
      <p v-else-if="session.signed === 'go'"><b>Go ahead was given.</b></p>
      <p v-else><b>Stopped:</b> {{ session.why }}</p>
    </section>
  </div>
</template>

<style scoped>
.call {
  display: flex;
  justify-content: space-between;
  align-items: center;
  gap: 10px;
  padding: 8px 10px;
  border-left: 5px solid var(--amber);
  background: var(--amber-tint);
  margin: 0 0 10px;
}
.plan {
  margin-bottom: 12px;
}
h2 {
  font-size: 16px;
  margin: 0 0 6px;
}
dl {
  margin: 0 0 8px;
}
dl div {
  display: grid;
  grid-template-columns: 90px 1fr;
  gap: 8px;
  padding: 2px 0;
}
dt {
  color: var(--ink-soft);
}
dd {
  margin: 0;
  font-weight: 600;
}
.warn {
  padding: 8px 10px;
  border-left: 5px solid var(--high);
  background: var(--high-tint);
  margin: 6px 0;
}
.words {
  display: grid;
  grid-template-columns: 1.4fr 1fr;
  gap: 8px;
}
.words button {
  min-height: 48px;
  border-radius: 4px;
  font-size: 16px;
  font-weight: 600;
  cursor: pointer;
}
.go {
  border: 0;
  background: var(--good);
  color: var(--white);
}
.stop {
  border: 1px solid var(--high);
  background: var(--card);
  color: var(--high);
}
.why {
  display: grid;
  gap: 4px;
  margin-top: 8px;
}
</style>
