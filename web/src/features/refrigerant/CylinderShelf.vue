<script setup lang="ts">
/** Every cylinder of the shop as it stands: how full, against the line it must not pass. */
import type { Schemas } from '@/api/client'

defineProps<{ cylinders: Schemas['StockRow'][]; chosen: number | null }>()
const emit = defineEmits<{ choose: [id: number] }>()
/** The limit, four fifths of the height inside. */
const TOP = 26
const BOTTOM = 112
const LINE = BOTTOM - 0.8 * (BOTTOM - TOP)
const level = (share: number) => BOTTOM - Math.min(0.8 * share, 1) * (BOTTOM - TOP)
</script>

<template>
  <ul class="shelf">
    <li v-for="c in cylinders" :key="c.id">
      <button
        type="button"
        :class="{ on: c.id === chosen }"
        :aria-pressed="c.id === chosen"
        data-test="cylinder"
        @click="emit('choose', c.id)"
      >
        <svg viewBox="0 0 70 124" width="70" height="124" aria-hidden="true">
          <path d="M24 12h22v8h-22z" class="collar" />
          <path d="M31 4h8v10h-8z" class="valve" />
          <clipPath :id="`body-${c.id}`">
            <rect x="9" :y="TOP - 8" width="52" :height="BOTTOM - TOP + 8" rx="14" />
          </clipPath>
          <g :clip-path="`url(#body-${c.id})`">
            <rect x="9" y="10" width="52" height="110" class="inside" />
            <rect x="9" :y="level(c.share)" width="52" height="110" :class="['liquid', { over: c.share > 1 }]" />
          </g>
          <rect x="9" :y="TOP - 8" width="52" :height="BOTTOM - TOP + 8" rx="14" :class="['shell', c.kind]" />
          <path :d="`M5 ${LINE}h60`" class="limit" />
          <path d="M16 116h38" class="foot" />
        </svg>
        <span class="told">
          <b>{{ c.name }}</b>
          <span>{{ c.refrigerant || 'empty' }} · {{ c.kind === 'new' ? 'new' : 'recovery' }}</span>
          <span class="num net">{{ c.net }}</span>
          <small class="soft num">gross {{ c.gross }}</small>
          <small v-if="c.room" class="soft num">room {{ c.room }}</small>
          <small v-else-if="c.kind === 'new'" class="soft">never refill</small>
        </span>
      </button>
      <p v-for="n in c.notes" :key="n" class="note" role="alert">{{ n }}</p>
    </li>
  </ul>
</template>

<style scoped>
.shelf {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(min(210px, 100%), 1fr));
  gap: 10px;
  margin: 0;
  padding: 0;
  list-style: none;
}
button {
  display: flex;
  gap: 10px;
  align-items: center;
  flex: 1;
  padding: 8px 10px;
  border: 1px solid var(--line);
  border-radius: 4px;
  background: var(--card);
  color: var(--ink);
  text-align: left;
  cursor: pointer;
}
li {
  display: flex;
  flex-direction: column;
  min-width: 0;
}
button.on {
  border-color: var(--violet);
  box-shadow: inset 0 0 0 1px var(--violet);
}
svg {
  flex: none;
}
.told {
  display: grid;
  min-width: 0;
  font-size: 13.5px;
}
.told b {
  font-size: 16px;
}
.net {
  margin-top: 4px;
  font-size: 17px;
  font-weight: 700;
}
.inside {
  fill: var(--el-fill-color);
}
.liquid {
  fill: var(--low-bright);
}
.liquid.over {
  fill: var(--high);
}
.shell {
  fill: none;
  stroke: var(--ink-mid);
  stroke-width: 2.5;
}
.shell.new {
  stroke-dasharray: 5 3;
}
.collar,
.valve {
  fill: none;
  stroke: var(--ink-mid);
  stroke-width: 2;
}
.limit {
  stroke: var(--high);
  stroke-width: 1.5;
}
.foot {
  stroke: var(--ink-mid);
  stroke-width: 4;
}
.note {
  margin: 4px 0 0;
  padding-left: 8px;
  border-left: 4px solid var(--amber);
  font-size: 13px;
}
</style>
