<script setup lang="ts">
/** One field of a lab session, big enough for a glove: a number, low/normal/high, a choice, choices, steps in order. */
import { computed, ref, watch } from 'vue'
import type { Schemas } from '@/api/client'
import { tr } from '@/shared/language'

const props = defineProps<{ question: Schemas['LabQuestion']; value: string; locked: boolean }>()
const emit = defineEmits<{ typed: [text: string] }>()
const WORDS: Record<string, readonly string[]> = { verdict: ['low', 'normal', 'high'], change: ['down', 'same', 'up'] }
const kind = computed(() => props.question.kind)
const words = computed(() => WORDS[kind.value])
const picked = computed(() =>
  props.value
    .toUpperCase()
    .split(/[\s,]+/)
    .filter(Boolean),
)
// what is being typed is not overwritten by what comes back from the server
const typing = ref(false)
const text = ref(props.value)
watch(
  () => props.value,
  (now) => {
    if (!typing.value) text.value = now
  },
)
function type(): void {
  emit('typed', text.value)
}
function choose(letter: string): void {
  if (kind.value === 'letter') return emit('typed', picked.value[0] === letter ? '' : letter)
  emit(
    'typed',
    (picked.value.includes(letter) ? picked.value.filter((p) => p !== letter) : [...picked.value, letter]).join(' '),
  )
}
const place = (letter: string) => picked.value.indexOf(letter) + 1
</script>

<template>
  <fieldset v-if="words" class="asked" :disabled="locked" :data-test="`q-${question.id}`">
    <legend>
      {{ question.text }} <small v-if="question.band">{{ question.band }}</small>
    </legend>
    <div class="words">
      <label v-for="w in words" :key="w" :class="{ on: value === w }"
        ><input type="radio" :name="question.id" :checked="value === w" :value="w" @change="emit('typed', w)" />{{
          tr(w)
        }}</label
      >
    </div>
  </fieldset>
  <fieldset v-else-if="question.choices.length" class="asked" :disabled="locked" :data-test="`q-${question.id}`">
    <legend>{{ question.text }}</legend>
    <p v-if="kind === 'steps'" class="soft small">
      Tap the steps in the order you would do them; tap again to take one out.
    </p>
    <div class="choices">
      <button
        v-for="c in question.choices"
        :key="c.letter"
        type="button"
        :aria-pressed="picked.includes(c.letter)"
        :class="{ on: picked.includes(c.letter) }"
        @click="choose(c.letter)"
      >
        <b class="num">{{ kind === 'steps' ? place(c.letter) || '·' : c.letter }}</b><span>{{ c.text }}</span>
      </button>
    </div>
  </fieldset>
  <label v-else class="asked line"
    ><span
      >{{ question.text }} <small v-if="question.band">{{ question.band }}</small></span
    ><span class="entry">
      <textarea
        v-if="kind === 'text'"
        v-model="text"
        rows="3"
        maxlength="600"
        :disabled="locked"
        :data-test="`q-${question.id}`"
        @focus="typing = true"
        @blur="typing = false"
        @input="type"
      /><input
        v-else
        v-model="text"
        inputmode="text"
        autocomplete="off"
        maxlength="60"
        :disabled="locked"
        :data-test="`q-${question.id}`"
        @focus="typing = true"
        @blur="typing = false"
        @input="type"
      /><em>{{ question.unit }}</em></span
    ></label
  >
</template>

<style scoped>
.asked {
  border: 0;
  margin: 0;
  padding: 10px 0;
  border-bottom: 1px solid var(--line);
  min-width: 0;
}
legend {
  padding: 0 0 6px;
  font-size: 16px;
  font-weight: 600;
}
small {
  color: var(--ink-soft);
  font-weight: 400;
  font-size: 13.5px;
}
.line {
  display: flex;
  justify-content: space-between;
  align-items: center;
  gap: 10px;
  font-size: 16px;
}
.entry {
  display: flex;
  align-items: center;
  gap: 6px;
  flex: 0 0 auto;
}
.entry em {
  font-style: normal;
  min-width: 30px;
  color: var(--ink-soft);
}
.entry input {
  width: 104px;
  height: 48px;
  font-size: 20px;
  text-align: right;
}
.line:has(textarea) {
  display: block;
}
.line:has(textarea) .entry {
  display: block;
}
textarea {
  width: 100%;
  font-size: 16px;
}
.words {
  display: grid;
  grid-template-columns: repeat(3, 1fr);
  gap: 6px;
}
.words label {
  display: grid;
  place-items: center;
  min-height: 48px;
  border: 1px solid var(--edge);
  border-radius: 4px;
  background: var(--card);
  text-transform: uppercase;
  font-weight: 600;
  cursor: pointer;
}
.words label.on,
.choices button.on {
  background: var(--violet);
  border-color: var(--violet);
  color: var(--white);
}
.words input {
  position: absolute;
  opacity: 0;
  width: 1px;
}
.words label:focus-within {
  outline: 3px solid var(--amber);
}
.choices {
  display: grid;
  gap: 6px;
}
.choices button {
  display: flex;
  gap: 10px;
  align-items: center;
  min-height: 48px;
  padding: 6px 10px;
  border: 1px solid var(--edge);
  border-radius: 4px;
  background: var(--card);
  color: var(--ink);
  text-align: left;
  font-size: 15px;
  cursor: pointer;
}
.choices b {
  min-width: 22px;
}
fieldset:disabled .words label,
fieldset:disabled .choices button {
  cursor: default;
  opacity: 0.75;
}
</style>
