<script setup lang="ts">
import { computed } from 'vue'
import type { WhatIf } from './useWhatIf'

const props = defineProps<{ what: WhatIf }>()
const { reply, frame, at, playing, play, failure, busy } = props.what
const minutes = computed(() => Math.round((frame.value?.time_s ?? 0) / 60))
const last = computed(() => Math.max(0, (reply.value?.frames.length ?? 1) - 1))
</script>

<template>
  <div class="card told">
    <p v-if="failure" class="error" role="alert">{{ failure }}</p>
    <p v-if="!reply" class="soft first">
      Pick an action on the left: what if they did this? The machine above runs until it stabilizes. Nothing is saved.
      <RouterLink to="/work" data-test="to-work">Go to the work room</RouterLink>, with weights and the correct
      sequence.
    </p>
    <template v-else>
      <div class="time">
        <button type="button" :disabled="busy" data-test="play" @click="play">
          {{ playing ? '… playing' : '▶ Watch again' }}</button><input
          type="range"
          min="0"
          :max="last"
          :value="at"
          aria-label="Moment"
          @input="at = Number(($event.target as HTMLInputElement).value)"
        /><b class="num">{{ minutes }} min</b
        ><span :class="['state', { off: !frame?.running }]" data-test="what-state">{{
          frame?.running ? 'running' : 'stands'
        }}</span>
      </div>
      <ol data-test="said">
        <li v-for="(s, i) in reply.steps" :key="i" :class="{ refused: s.refused }">
          <b>{{ s.name }}</b> <template v-for="text in s.said" :key="text">{{ text }} </template>
        </li>
      </ol>
      <p v-if="reply.left.length" class="soft">Not undone yet: {{ reply.left.join('; ') }}.</p>
    </template>
  </div>
</template>

<style scoped>
.told {
  padding: 7px 12px;
  font-size: 13px;
  overflow: auto;
  max-height: 104px;
}
.told p {
  margin: 0;
}
.told ol {
  margin: 8px 0 0;
  padding-left: 20px;
}
.refused {
  color: var(--amber);
}
.time {
  display: flex;
  align-items: center;
  gap: 10px;
}
.time input {
  flex: 1;
  accent-color: var(--violet);
}
.time button {
  border: 1px solid var(--edge);
  border-radius: 3px;
  background: var(--card);
  color: var(--ink);
  padding: 4px 10px;
  cursor: pointer;
}
.state {
  font-weight: 600;
  color: var(--good);
}
.state.off {
  color: var(--amber);
}
</style>
