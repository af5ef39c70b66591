<script setup lang="ts">
/** What a class has seen of its machine: the site, the gauges, what was read and told. */
import { toRef } from 'vue'
import DialFace from '@/shared/DialFace.vue'
import SitePicture from './SitePicture.vue'
import { useSeen, type Lesson } from './lesson'

const props = defineProps<{ lesson: Lesson; still: boolean }>()
defineEmits<{ look: [check: string] }>()
const { looks, tests, dials, digits, last, gauges } = useSeen(toRef(props, 'lesson'))
</script>

<template>
  <div class="scene">
    <div class="left">
      <SitePicture
        :looks="lesson.looks"
        :seen="looks"
        :box="lesson.refrigeration"
        :busy="still"
        :still="still"
        :gauges="gauges"
        @look="$emit('look', $event)"
      />
      <div v-if="last" :class="['told', { harm: last.harm.length }]" aria-live="polite" data-test="lesson-told">
        <span v-for="line in last.said" :key="line">{{ line }} </span>
        <template v-if="last.reading"
          >{{ lesson.points.find((p) => p.point === last?.data.point)?.label }}:
          <span v-if="last.reading.text" class="num">{{ last.reading.text }}</span><template v-else
            >read the dial.</template
          ></template
        >
        <b v-for="line in last.harm" :key="line" role="alert"> {{ line }}</b>
      </div>
    </div>
    <div class="right">
      <p class="complaint">
        “{{ lesson.complaint }}” <span v-if="lesson.history" class="soft">{{ lesson.history }}</span>
      </p>
      <figure v-for="d in dials" :key="d.point">
        <DialFace :drawing="d.drawing" />
        <figcaption v-if="d.read" class="num">read: {{ d.read }}</figcaption>
      </figure>
      <dl class="rows">
        <template v-for="d in digits" :key="d.label"
          ><dt>{{ d.label }}</dt>
          <dd class="num">{{ d.text }}</dd></template
        ><template v-for="t in tests" :key="t.name"
          ><dt>{{ t.name }}</dt>
          <dd>{{ t.said }}</dd></template
        ><template v-for="p in lesson.plate" :key="p.label"
          ><dt class="soft">{{ p.label }}</dt>
          <dd class="num">{{ p.text }}</dd></template
        >
      </dl>
      <dl v-if="lesson.figures.length" class="rows board" data-test="board">
        <template v-for="f in lesson.figures" :key="f.text"
          ><dt>{{ f.text }}</dt>
          <dd class="num">{{ f.answer }}</dd></template
        >
      </dl>
      <p v-if="lesson.named_as" class="named">
        Named: <b>{{ lesson.named_as }}</b>
      </p>
    </div>
  </div>
</template>

<style scoped>
.scene {
  display: grid;
  grid-template-columns: minmax(0, 1.5fr) minmax(200px, 1fr);
  gap: 16px;
}
.complaint {
  margin: 0;
  flex: 1 1 100%;
  font-size: 1.15em;
}
.complaint .soft {
  display: block;
  font-size: 0.85em;
}
.told {
  margin-top: 8px;
  padding: 8px 12px;
  background: var(--violet-soft);
  border-left: 4px solid var(--violet);
}
.told.harm {
  background: var(--high-tint);
  border-left-color: var(--high);
}
.right {
  display: flex;
  flex-wrap: wrap;
  gap: 10px;
  align-content: start;
}
figure {
  margin: 0;
  flex: 1 1 126px;
  max-width: 240px;
}
figcaption {
  text-align: center;
}
.rows {
  display: grid;
  grid-template-columns: 1fr auto;
  gap: 2px 12px;
  margin: 0;
  flex: 1 1 100%;
  align-content: start;
}
.rows dt {
  font-weight: 600;
}
.rows dd {
  margin: 0;
}
.board {
  border-top: 2px solid var(--violet);
  padding-top: 6px;
}
.named {
  margin: 0;
}
</style>
