<script setup lang="ts">
/** Refrigerant in or out by the scale: weigh the cylinder, open it, weigh it again, write down what went over. */
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import { kept } from '@/shared/kept'

const props = defineProps<{ session: Schemas['LabSession']; locked: boolean }>()
const emit = defineEmits<{ weigh: [data: Record<string, unknown>] }>()
const form = kept(`lab.${props.session.id}.weigh`, {
  kind: 'charge',
  cylinder_id: 0,
  before: '',
  after: '',
  log: '',
  began_at: 0,
})
const us = computed(() => props.session.card.units === 'us')
const fits = computed(() =>
  props.session.cylinders.filter((c) => form.value.kind === 'charge' || c.kind === 'recovery'),
)
const named = (id: number) => props.session.cylinders.find((c) => c.id === id)?.name ?? `cylinder ${id}`
const ready = computed(
  () => form.value.cylinder_id > 0 && [form.value.before, form.value.after, form.value.log].every((t) => t.trim()),
)
function begin(): void {
  if (!form.value.began_at) form.value.began_at = Date.now() / 1000
}
function send(): void {
  emit('weigh', { ...form.value, began_at: form.value.began_at || Date.now() / 1000 })
  form.value = { ...form.value, before: form.value.after, after: '', log: '', began_at: 0 }
}
</script>

<template>
  <section aria-label="By the scale">
    <ol v-if="session.state.weighs.length" class="done" data-test="weighs">
      <li v-for="(w, i) in session.state.weighs" :key="i" :class="{ told: w.said }">
        <b class="num">{{ w.log }} {{ /[a-z]/i.test(w.log) ? '' : us ? 'oz' : 'g' }}</b>
        {{ w.kind === 'charge' ? 'into the machine' : 'out of the machine' }}, {{ named(w.cylinder_id) }}:
        <span class="num">{{ w.before }} → {{ w.after }}</span>
        <span v-if="w.said" class="warn" role="alert">{{ w.said }}</span>
      </li>
    </ol>
    <form class="weigh" @submit.prevent="send">
      <div class="ways">
        <label :class="{ on: form.kind === 'charge' }"
          ><input v-model="form.kind" type="radio" value="charge" :disabled="locked" />In</label
        ><label :class="{ on: form.kind === 'recover' }"
          ><input v-model="form.kind" type="radio" value="recover" :disabled="locked" />Out</label
        >
      </div>
      <label class="row"
        ><span>Cylinder</span
        ><select v-model.number="form.cylinder_id" :disabled="locked" data-test="cylinder">
          <option :value="0" disabled>choose</option>
          <option v-for="c in fits" :key="c.id" :value="c.id">
            {{ c.name }}: {{ c.refrigerant || 'empty' }}, {{ c.kind }}
          </option>
        </select></label
      >
      <label class="row"
        ><span>Cylinder before, {{ us ? 'lb oz' : 'kg' }}</span
        ><input v-model="form.before" :disabled="locked" maxlength="40" data-test="before" @input="begin"
      /></label>
      <label class="row"
        ><span>Cylinder after, {{ us ? 'lb oz' : 'kg' }}</span
        ><input v-model="form.after" :disabled="locked" maxlength="40" data-test="after" @input="begin"
      /></label>
      <label class="row"
        ><span>Moved, for the log, {{ us ? 'oz' : 'g' }}</span
        ><input v-model="form.log" :disabled="locked" maxlength="40" data-test="log" @input="begin"
      /></label>
      <p class="soft small">Liquid in short bursts; stop, let it settle, read again. Never past 80 % in a cylinder.</p>
      <button type="submit" class="big" :disabled="locked || !ready" data-test="weigh">Write it down</button>
    </form>
  </section>
</template>

<style scoped>
.done {
  margin: 0 0 12px;
  padding-left: 20px;
}
.done li {
  padding: 4px 0;
}
.warn {
  display: block;
  color: var(--high-dark);
}
.weigh {
  display: grid;
  gap: 8px;
}
.ways {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 6px;
}
.ways label {
  display: grid;
  place-items: center;
  min-height: 48px;
  border: 1px solid var(--edge);
  border-radius: 4px;
  font-weight: 600;
  cursor: pointer;
}
.ways label.on {
  background: var(--violet);
  color: var(--white);
}
.ways label:focus-within {
  outline: 3px solid var(--amber);
}
.ways input {
  position: absolute;
  opacity: 0;
  width: 1px;
}
.row {
  display: flex;
  justify-content: space-between;
  align-items: center;
  gap: 10px;
}
.row input,
.row select {
  width: 150px;
  height: 48px;
  font-size: 18px;
}
.row select {
  width: 190px;
  font-size: 15px;
}
.big {
  min-height: 52px;
  border: 1px solid var(--violet);
  border-radius: 4px;
  background: var(--card);
  color: var(--violet);
  font-size: 17px;
  font-weight: 600;
  cursor: pointer;
}
.big:disabled {
  border-color: var(--line);
  color: var(--ink-faint);
  cursor: default;
}
</style>
