<script setup lang="ts">
/** A button that asks for a file; with `shows` the chosen one's name stands beside it until it is sent. */
import { ref } from 'vue'

defineOptions({ inheritAttrs: false })
defineProps<{ shows?: boolean }>()
const emit = defineEmits<{ change: [event: Event] }>()
const name = ref('')
function take(event: Event): void {
  const files = (event.target as HTMLInputElement).files
  name.value = [...(files ?? [])].map((f) => f.name).join(', ')
  emit('change', event)
}
</script>

<template>
  <label class="file"
    ><input type="file" v-bind="$attrs" @change="take" /><span class="as-button"><slot>Choose a file</slot></span
    ><span v-if="shows && name" class="soft"> {{ name }}</span></label
  >
</template>

<style scoped>
.file {
  position: relative;
  display: inline-block;
  cursor: pointer;
  font-size: 14px;
}
input {
  position: absolute;
  inset: 0;
  width: 1px;
  height: 1px;
  opacity: 0;
}
.file:hover .as-button {
  background: var(--violet-soft);
}
.file:focus-within .as-button {
  outline: 3px solid var(--violet);
  outline-offset: 2px;
}
</style>
