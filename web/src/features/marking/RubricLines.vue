<script setup lang="ts">
import { ref } from 'vue'
import { api, ask, type Schemas } from '@/api/client'
import { tr } from '@/shared/language'

/** What earns what, for whoever asks. */
const lines = ref<Schemas['RubricLine'][]>([])
async function load(event: Event): Promise<void> {
  if (!(event.target as HTMLDetailsElement).open || lines.value.length) return
  try {
    lines.value = (await ask(api.GET('/api/v1/reference/rubric'))).lines
  } catch {
    // It opens empty; the next opening asks again.
  }
}
</script>

<template>
  <details class="rubric" @toggle="load">
    <summary>{{ tr('What earns what') }}</summary>
    <dl>
      <template v-for="l in lines" :key="l.what"
        ><dt>{{ l.what }}</dt>
        <dd>{{ l.earns }}</dd></template
      >
    </dl>
  </details>
</template>

<style scoped>
.rubric {
  margin-top: 14px;
}
summary {
  cursor: pointer;
  color: var(--violet);
  font-weight: 600;
}
dl {
  display: grid;
  grid-template-columns: minmax(120px, 200px) 1fr;
  gap: 4px 14px;
  font-size: 14px;
}
dt {
  font-weight: 600;
}
dd {
  margin: 0;
}
@media (max-width: 560px) {
  dl {
    grid-template-columns: 1fr;
  }
}
</style>
