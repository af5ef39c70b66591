<script setup lang="ts">
import { computed } from 'vue'
import { units } from '@/shared/kept'
import NumberField from '@/shared/NumberField.vue'
import type { Living } from './room'

const props = defineProps<{ living: Living; always?: boolean }>()
const { room, doors, troubles, reply } = props.living
const degree = computed(() => (units.value === 'us' ? '°F' : '°C'))
const controls = computed(() => (room.value.lives ? reply.value?.controls : null))
const shows = computed(() => troubles.value.filter((t) => room.value.troubles.includes(t.id)))
</script>

<template>
  <div :class="['room', { card: !always }]">
    <h2>Room and controls</h2>
    <div v-if="!always" class="choice" role="group" aria-label="Room">
      <button :aria-pressed="!room.lives" @click="room.lives = false">Conditions held</button>
      <button :aria-pressed="room.lives" data-test="room-lives" @click="room.lives = true">Room responds</button>
    </div>
    <template v-if="room.lives">
      <label>Starts at, {{ degree }} <NumberField v-model="room.start" optional placeholder="as set" /></label>
      <label>Thermostat, {{ degree }} <NumberField v-model="room.set" optional placeholder="as set" /></label>
      <label
        >Door
        <select v-model="room.door">
          <option v-for="d in doors" :key="d">{{ d }}</option>
        </select></label
      >
      <details :open="room.troubles.length > 0">
        <summary>Trouble with the controls</summary>
        <label v-for="t in troubles" :key="t.id" class="tick"
          ><input v-model="room.troubles" type="checkbox" :value="t.id" /> {{ t.name }}</label
        >
      </details>
      <p v-for="t in shows" :key="t.id" class="soft">{{ t.shows }}</p>
      <dl v-if="controls" data-test="settings">
        <template v-for="s in controls.settings" :key="s.id">
          <dt>{{ s.name }}</dt>
          <dd>{{ s.text }}</dd>
        </template>
      </dl>
    </template>
  </div>
</template>

<style scoped>
.room:not(.card) {
  margin-top: 12px;
}
.choice {
  display: flex;
  margin-bottom: 6px;
}
.choice button {
  flex: 1;
  border: 1px solid var(--edge);
  background: var(--card);
  color: var(--ink);
  padding: 4px 6px;
  font: inherit;
  font-size: 13px;
  cursor: pointer;
}
.choice button + button {
  border-left: 0;
}
.choice button[aria-pressed='true'] {
  background: var(--violet);
  border-color: var(--violet);
  color: var(--card);
  font-weight: 600;
}
label {
  display: flex;
  justify-content: space-between;
  align-items: center;
  font-size: 13px;
  margin-top: 4px;
}
label input[type='number'],
select {
  width: 84px;
}
details {
  margin-top: 6px;
  font-size: 13px;
}
summary {
  cursor: pointer;
}
.tick {
  justify-content: flex-start;
  gap: 6px;
}
p {
  margin: 4px 0 0;
  font-size: 12.5px;
}
dl {
  margin: 8px 0 0;
  border-top: 1px solid var(--line);
  padding-top: 4px;
  font-size: 12.5px;
}
dt {
  font-weight: 600;
  margin-top: 3px;
}
dd {
  margin: 0;
}
</style>
