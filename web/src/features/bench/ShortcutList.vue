<script setup lang="ts">
import type { Shortcut } from './shortcuts'

defineProps<{ list: Shortcut[] }>()
const open = defineModel<boolean>('open', { required: true })
const on = defineModel<boolean>('on', { required: true })
</script>

<template>
  <el-dialog v-model="open" title="Keyboard shortcuts" width="520px">
    <dl data-test="shortcuts">
      <template v-for="s in list" :key="s.keys"
        ><dt>
          <kbd v-for="k in s.keys.split(' or ')" :key="k">{{ k }}</kbd>
        </dt>
        <dd>{{ s.does }}</dd></template
      >
    </dl>
    <p class="soft">
      Tab walks through everything; arrow keys turn a slider, Space gives or withholds the reading in focus.
    </p>
    <label class="on"><input v-model="on" type="checkbox" /> single keys are on</label>
  </el-dialog>
</template>

<style scoped>
dl {
  display: grid;
  grid-template-columns: 150px 1fr;
  gap: 6px 12px;
  margin: 0;
}
dt {
  text-align: right;
}
dd {
  margin: 0;
}
kbd {
  font: 700 13px var(--mono);
  border: 1px solid var(--edge);
  border-bottom-width: 3px;
  border-radius: 3px;
  padding: 1px 7px;
  margin-left: 4px;
  background: var(--card);
}
.on {
  display: block;
  margin-top: 8px;
}
</style>
