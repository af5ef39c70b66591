<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '@/api/client'

/** What the marker may look up beside the answers. */
const props = defineProps<{ call: Schemas['PaperCall'] }>()
const ORDER = ['fault', 'evidence', 'action', 'order']
const rank = (kind: string) => ORDER.indexOf(kind) + 1 || 9
const choices = computed(() => Object.entries(props.call.choices).sort(([a], [b]) => rank(a) - rank(b)))
const words: Record<string, string> = {
  fault: 'What is wrong',
  evidence: 'Which figures',
  action: 'First step',
  order: 'Steps',
}
</script>

<template>
  <aside class="card">
    <h2>Key: {{ call.title }}</h2>
    <p class="soft">{{ call.complaint }}</p>
    <table class="read">
      <tbody>
        <tr v-for="r in call.readings" :key="String(r.label)">
          <td>{{ r.label }}</td>
          <td class="num">{{ r.text }}</td>
        </tr>
      </tbody>
    </table>
    <section v-for="[kind, rows] in choices" :key="kind">
      <h3>{{ words[kind] ?? kind }}</h3>
      <ul class="choices">
        <li v-for="c in rows" :key="c.letter">
          <b class="num">{{ c.letter }}</b>{{ c.text }}
        </li>
      </ul>
    </section>
  </aside>
</template>

<style scoped>
aside {
  font-size: 12.5px;
  padding: 10px 14px;
}
aside p {
  margin: 0 0 4px;
}
h3 {
  font-size: 12px;
  margin: 6px 0 1px;
  color: var(--ink-soft);
}
.read {
  width: 100%;
  border-collapse: collapse;
  margin-bottom: 6px;
}
.read td {
  border-bottom: 1px solid var(--line);
  padding: 1px 0;
}
.read td:last-child {
  text-align: right;
  font-weight: 700;
}
.choices {
  list-style: none;
  margin: 0;
  padding: 0;
  font-size: 12px;
  line-height: 1.26;
}
.choices li {
  padding-left: 20px;
  position: relative;
}
.choices b {
  position: absolute;
  left: 0;
  color: var(--violet);
}
</style>
