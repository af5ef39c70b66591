<script setup lang="ts">
/** Two ways through a call, one above the other on one line of minutes: what each step told of the answer, and the marks. */
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import { clock } from './play'
import { tr } from '@/shared/language'

const props = defineProps<{ judged: Schemas['ScreenJudged']; first?: string }>()
const W = 640
const H = 96
const namedAt = (way: Schemas['ScreenWay']) => way.way[way.named_after - 1]?.minutes ?? 0
const span = computed(() => 1.08 * Math.max(namedAt(props.judged), namedAt(props.judged.expert), 10))
const x = (minutes: number) => 8 + (minutes / span.value) * (W - 16)
const y = (belief: number) => H - 14 - belief * (H - 26)
const ways = computed(() => [
  { name: props.first ?? tr('This path'), way: props.judged },
  { name: tr('The expert’s path'), way: props.judged.expert },
])
const line = (way: Schemas['ScreenWay']) =>
  way.way
    .slice(0, way.named_after)
    .map((t, n) => `${n ? 'L' : 'M'}${x(t.minutes).toFixed(1)} ${y(t.after).toFixed(1)}`)
    .join('')
const percent = (share: number) => `${Math.round(100 * share)} %`
</script>

<template>
  <section class="card ways" aria-labelledby="ways">
    <h2 id="ways">
      {{
        tr('{earned} of {possible}: it was {what}', {
          earned: judged.marks.earned,
          possible: judged.marks.possible,
          what: judged.answer.toLowerCase(),
        })
      }}
    </h2>
    <div class="both">
      <figure v-for="w in ways" :key="w.name">
        <figcaption>
          <b>{{ w.name }}</b>
          {{
            tr('{h} h on site, bill {bill}: how far the evidence pointed to the answer', {
              h: clock(w.way.minutes),
              bill: Math.round(w.way.bill),
            })
          }}
        </figcaption>
        <svg :viewBox="`0 0 ${W} ${H}`" role="img" :aria-label="`${w.name}: see the list of steps`">
          <path :d="`M8 ${y(0)}H${W - 8}M8 ${y(1)}H${W - 8}`" class="axis" />
          <text x="8" :y="y(1) - 3" class="mark">{{ tr('sure') }}</text>
          <path :d="line(w.way)" class="belief" />
          <circle
            v-for="(t, n) in w.way.way.slice(0, w.way.named_after)"
            :key="n"
            :cx="x(t.minutes)"
            :cy="y(t.after)"
            :r="t.after - t.before > 0.05 ? 4 : 2.2"
            class="dot"
          >
            <title>{{ t.text }}: {{ t.showed }}</title>
          </circle>
          <path :d="`M${x(namedAt(w.way))} 8V${H - 14}`" class="named" />
          <text :x="Math.min(x(namedAt(w.way)) + 4, W - 60)" :y="H - 3" class="mark">{{ tr('named') }}</text>
        </svg>
        <details>
          <summary>{{ tr('{n} steps', { n: w.way.way.length }) }}</summary>
          <ol>
            <li v-for="(t, n) in w.way.way" :key="n" :class="{ after: n >= w.way.named_after }">
              <span class="num soft">{{ clock(t.minutes) }}</span> {{ t.text }}: {{ t.showed
              }}<small v-if="n < w.way.named_after && Math.abs(t.after - t.before) > 0.02" class="soft num">
                {{ percent(t.before) }} → {{ percent(t.after) }}</small
              >
            </li>
          </ol>
        </details>
      </figure>
    </div>
    <table class="list">
      <tbody>
        <tr v-for="p in judged.marks.parts" :key="p.part">
          <td>{{ p.name }}</td>
          <td class="right num">
            <b>{{ p.earned }}</b>/{{ p.points }}
          </td>
          <td class="soft">{{ p.reasons.join(' ') }}</td>
        </tr>
        <tr v-if="judged.marks.off">
          <td>{{ tr('Taken off') }}</td>
          <td class="right num">−{{ judged.marks.off }}</td>
          <td class="soft">{{ judged.marks.off_for.join(' ') }}</td>
        </tr>
      </tbody>
    </table>
  </section>
</template>

<style scoped>
.ways {
  margin-bottom: 12px;
}
.both {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(320px, 1fr));
  gap: 14px;
  margin-top: 10px;
}
figure {
  margin: 0;
}
svg {
  width: 100%;
  height: auto;
  display: block;
}
.axis {
  stroke: var(--line);
}
.belief {
  fill: none;
  stroke: var(--violet);
  stroke-width: 2.5;
}
.dot {
  fill: var(--violet);
}
.named {
  stroke: var(--amber);
  stroke-width: 2;
  stroke-dasharray: 4 3;
}
.mark {
  font-size: 11px;
  fill: var(--ink-soft);
}
ol {
  margin: 6px 0 0;
  padding-left: 4px;
  list-style: none;
}
li {
  padding: 2px 0;
}
li small {
  margin-left: 8px;
}
li.after {
  color: var(--ink-soft);
}
td:last-child {
  width: 60%;
}
</style>
