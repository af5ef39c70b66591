<script setup lang="ts" generic="V extends number | null | undefined">
/** A number, typed or stepped. Past an end it goes to that end; cleared, it is nothing where nothing is allowed. */
const props = defineProps<{
  modelValue: V
  min?: number
  max?: number
  step?: number
  optional?: boolean
}>()
const emit = defineEmits<{ 'update:modelValue': [value: V] }>()
const within = (v: number) => Math.min(Math.max(v, props.min ?? -Infinity), props.max ?? Infinity)
function take(event: Event): void {
  const field = event.target as HTMLInputElement
  const typed = field.value.trim() === '' ? NaN : Number(field.value)
  if (!Number.isNaN(typed) && within(typed) === typed) emit('update:modelValue', typed as V)
  else if (event.type === 'change') {
    if (!Number.isNaN(typed)) emit('update:modelValue', within(typed) as V)
    else if (props.optional) emit('update:modelValue', null as V)
    const now = Number.isNaN(typed) ? (props.optional ? '' : (props.modelValue ?? '')) : within(typed)
    field.value = String(now)
  }
}
</script>

<template>
  <input
    type="number"
    inputmode="decimal"
    :value="modelValue ?? ''"
    :min="min"
    :max="max"
    :step="step ?? 'any'"
    @input="take"
    @change="take"
  />
</template>
