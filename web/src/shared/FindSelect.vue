<script setup lang="ts" generic="V extends string | string[]">
/** A list to pick from that is found by any everyday name; Enter takes the first hit. */
import { computed, nextTick, ref, watch } from 'vue'
import { finding, type Findable } from './finding'

const props = defineProps<{
  modelValue: V
  rows: readonly (Findable & { group?: string })[]
  multiple?: boolean
}>()
defineEmits<{ 'update:modelValue': [value: V] }>()
const typed = ref('')
const shown = computed(() => finding(props.rows, typed.value))
const groups = computed(() => {
  const names = [...new Set(shown.value.map((row) => row.group ?? ''))]
  return names.map((name) => [name, shown.value.filter((row) => (row.group ?? '') === name)] as const)
})
/** An id is no name: until the names are here nothing stands in the field. */
const named = computed(() => (props.multiple || props.rows.length ? props.modelValue : ('' as V)))
/**
 * Whoever types fast presses Enter before the list has followed, or before it came at all: the key waits for it.
 */
function held(event: Event): void {
  if (!(event instanceof KeyboardEvent) || event.key !== 'Enter' || event.isComposing || !event.isTrusted) return
  event.stopPropagation()
  event.preventDefault()
  const field = event.target
  const again = () => field?.dispatchEvent(new KeyboardEvent('keydown', { key: 'Enter', code: 'Enter', bubbles: true }))
  const followed = () => setTimeout(() => void nextTick().then(nextTick).then(nextTick).then(again))
  if (props.rows.length) followed()
  else watch(() => props.rows.length, followed, { once: true, flush: 'post' })
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
    @visible-change="(open: boolean) => open || (typed = '')"
  >
    <template v-if="grouped"
      ><el-option-group v-for="[name, some] in groups" :key="name" :label="name"
        ><el-option v-for="row in some" :key="row.id" :value="row.id" :label="row.label" /></el-option-group
    ></template>
    <template v-else><el-option v-for="row in shown" :key="row.id" :value="row.id" :label="row.label" /></template>
  </el-select>
</template>
