<script setup lang="ts" generic="V extends string | string[]">
/** A list to pick from that is found by any everyday name; Enter takes the first hit. */
import { computed, nextTick, ref, watch } from 'vue'
import { finding, type Findable } from './finding'

const props = defineProps<{
  modelValue: V
  rows: readonly (Findable & { group?: string })[]
  multiple?: boolean
}>()
const emit = defineEmits<{ 'update:modelValue': [value: V] }>()
const typed = ref('')
const open = ref(false)
const shown = computed(() => finding(props.rows, typed.value))
const groups = computed(() => {
  const names = [...new Set(shown.value.map((row) => row.group ?? ''))]
  return names.map((name) => [name, shown.value.filter((row) => (row.group ?? '') === name)] as const)
})
/** An id is no name: until the names are here nothing stands in the field. */
const named = computed(() => (props.multiple || props.rows.length ? props.modelValue : ('' as V)))
/** What was typed, where the list has been left before its rows came: the first hit is taken all the same. */
function take(text: string): void {
  const hit = finding(props.rows, text)[0]
  if (!hit || !text.trim()) return
  if (typeof props.modelValue === 'string') emit('update:modelValue', hit.id as V)
  else if (!props.modelValue.includes(hit.id)) emit('update:modelValue', [...props.modelValue, hit.id] as V)
}
function shownOrNot(now: boolean): void {
  open.value = now
  if (!now) typed.value = ''
}
/**
 * Whoever types fast presses Enter before the list has followed, or before it came at all: the key waits for it.
 */
function held(event: Event): void {
  if (!(event instanceof KeyboardEvent) || event.key !== 'Enter' || event.isComposing || !event.isTrusted) return
  event.stopPropagation()
  event.preventDefault()
  const field = event.target
  const text = field instanceof HTMLInputElement ? field.value : typed.value
  const again = () => field?.dispatchEvent(new KeyboardEvent('keydown', { key: 'Enter', code: 'Enter', bubbles: true }))
  // whoever left the field meanwhile gets what they had typed
  const answered = () => (open.value || !text.trim() ? again() : take(text))
  const followed = () => setTimeout(() => void nextTick().then(nextTick).then(nextTick).then(answered))
  if (props.rows.length) followed()
  else
    watch(
      () => props.rows.length,
      () => (open.value ? followed() : take(text)),
      { once: true, flush: 'post' },
    )
}
const grouped = computed(() => props.rows.some((row) => row.group))
</script>

<template>
  <el-select
    :model-value="named"
    :multiple="multiple"
    filterable
    default-first-option
    :collapse-tags="multiple"
    :filter-method="(text: string) => (typed = text)"
    no-match-text="No match"
    :no-data-text="rows.length ? 'No match' : 'Loading…'"
    @keydown.capture="held"
    @update:model-value="$emit('update:modelValue', $event)"
    @visible-change="shownOrNot"
  >
    <template v-if="grouped"
      ><el-option-group v-for="[name, some] in groups" :key="name" :label="name"
        ><el-option v-for="row in some" :key="row.id" :value="row.id" :label="row.label" /></el-option-group
    ></template>
    <template v-else><el-option v-for="row in shown" :key="row.id" :value="row.id" :label="row.label" /></template>
  </el-select>
</template>
