<script setup lang="ts">
import { useResizeObserver } from '@vueuse/core'
import UPlot from 'uplot'
import 'uplot/dist/uPlot.min.css'
import { drawing } from './traceDrawing'
import { onBeforeUnmount, onMounted, useTemplateRef, watch } from 'vue'

/** Lines against a common axis, drawn fast. Each line has its own scale when `scale` differs. */
const props = defineProps<{
  /** The axis (time or fuel flow), then one array for each line. */
  data: (number | null)[][]
  /** What each line is: label, scale name, dashed or not, points or crosses instead of a line. */
  lines: { label: string; scale: string; dash?: number[]; width?: number; points?: boolean; crosses?: boolean }[]
  /** Vertical marks on the axis, with their words. */
  marks?: { at: number; text: string }[]
  /** A stretch of the axis that is hatched: not to be left there. */
  band?: [number, number]
  /** From where to where of the first scale is allowed: drawn as a pale band. */
  level?: [number, number]
  /** The own position on the axis: a dot on each line, named beside it. */
  here?: number
  /** Words of the axes: below, and left for the first scale; `counted`: what is below is counted and has no halves;
   * `dates`: it is days, in seconds since 1970. */
  axis: { x: string; y: string; y2?: string; counted?: boolean; dates?: boolean }
  /** The picture said in words. */
  label: string
  /** A cursor follows the hand, and a stretch that is drawn over is asked for. */
  explores?: boolean
  /** The number of the point that the cursor is at. */
  under?: number
}>()
const emit = defineEmits<{
  /** The cursor came to a point. */
  under: [place: number]
  /** A stretch of the axis was drawn over: a closer look is wanted. */
  stretch: [from: number, to: number]
  /** A place of the axis was tapped: the number of the nearest point. */
  picked: [place: number]
}>()
/** Half of a date's width [px], which reaches beyond the last point. */
const DATE_ROOM = 36
const DAY = new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'short', year: '2-digit' })
/** The number of the point nearest to the hand; none where it is beside the picture. */
function placeOf(event: MouseEvent) {
  if (!plot || !box.value) return undefined
  const left = event.clientX - box.value.getBoundingClientRect().left - plot.bbox.left / devicePixelRatio
  return left < 0 || left > plot.bbox.width / devicePixelRatio ? undefined : plot.posToIdx(left)
}
function pick(event: MouseEvent) {
  const place = placeOf(event)
  if (place !== undefined) emit('picked', place)
}
function follow(event: PointerEvent) {
  const place = props.explores ? placeOf(event) : undefined
  if (place !== undefined) emit('under', place)
}
const box = useTemplateRef<HTMLDivElement>('box')
let plot: UPlot | undefined

const { css, ...hooks } = drawing(props)

/** What the hand does on a picture that is looked into. */
const exploring = (): Partial<UPlot.Options> => ({
  cursor: props.explores
    ? { y: false, points: { show: false }, drag: { x: true, y: false, setScale: false } }
    : { show: false },
  legend: { show: false },
})
function tellStretch(u: UPlot) {
  if (u.select.width < 8) return
  emit('stretch', u.posToVal(u.select.left, 'x'), u.posToVal(u.select.left + u.select.width, 'x'))
  u.setSelect({ left: 0, top: 0, width: 0, height: 0 }, false)
}
function moveCursor() {
  const at = props.explores && props.under !== undefined && plot?.data[0][props.under]
  if (plot && typeof at === 'number' && plot.cursor.idx !== props.under)
    plot.setCursor({ left: plot.valToPos(at, 'x'), top: 1 }, false)
}

/** Room on the left for the names beside the dots. */
const withRoom: UPlot.Scale.Range = (_, low, high) =>
  props.here === undefined || low === null ? [low, high] : [low - (high - low) * 0.06, high]

function make() {
  if (!box.value) return
  plot?.destroy()
  const ink = css('--ink')
  const line = css('--line')
  const font = `15px 'Atkinson Hyperlegible'`
  const scales = [...new Set(props.lines.map((l) => l.scale))]
  const axes: UPlot.Axis[] = [
    {
      stroke: ink,
      font,
      labelFont: font,
      label: props.axis.x,
      labelSize: 20,
      size: 34,
      grid: { show: false },
      ticks: { stroke: line },
      ...(props.axis.dates
        ? { space: 90, values: (_: UPlot, splits: number[]) => splits.map((s) => DAY.format(s * 1000)) }
        : {}),
      ...(props.axis.counted ? { incrs: [1, 2, 5, 10, 20, 50, 100] } : {}),
    },
    {
      scale: scales[0],
      stroke: ink,
      font,
      labelFont: font,
      label: props.axis.y,
      labelSize: 20,
      size: 62, // "2,550", and its words beside it
      grid: { stroke: line, width: 1 },
      ticks: { stroke: line },
    },
  ]
  if (scales[1])
    axes.push({
      scale: scales[1],
      side: 1,
      stroke: css('--soft'),
      font,
      labelFont: font,
      label: props.axis.y2,
      labelSize: 20,
      size: 56,
      grid: { show: false },
      ticks: { stroke: line },
    })
  plot = new UPlot(
    {
      width: Math.max(box.value.clientWidth, 120),
      height: Math.max(box.value.clientHeight, 100),
      ...(props.axis.dates ? { padding: [null, DATE_ROOM, null, null] } : {}),
      scales: { x: { time: false, range: withRoom } },
      ...exploring(),
      axes,
      hooks: {
        drawClear: [hooks.drawBand, hooks.drawLevel],
        draw: [hooks.drawMarks, hooks.drawHere, hooks.drawCrosses],
        setSelect: [tellStretch],
      },
      series: [
        {},
        ...props.lines.map((l) => ({
          label: l.label,
          scale: l.scale,
          stroke: l.scale === scales[0] ? ink : css('--soft'),
          width: (l.points || l.crosses) && !l.width ? 0 : (l.width ?? 2),
          dash: l.dash,
          spanGaps: !l.points,
          points: { show: l.points ?? false, size: l.width ? 4 : 10 },
        })),
      ],
    },
    props.data as UPlot.AlignedData,
    box.value,
  )
}

onMounted(make)
onBeforeUnmount(() => plot?.destroy())
useResizeObserver(
  box,
  () => box.value && plot?.setSize({ width: box.value.clientWidth, height: box.value.clientHeight }),
)
watch(
  () => props.lines.length,
  () => make(),
)
watch(
  () => props.data,
  (data) => plot?.setData(data as UPlot.AlignedData),
)
watch(() => [props.under, props.data], moveCursor, { flush: 'post' })
</script>

<template>
  <div ref="box" class="plot" role="img" :aria-label="label" @click="pick" @pointermove="follow"></div>
</template>

<style scoped>
.plot {
  position: absolute;
  inset: 0;
  overflow: hidden;
}
</style>
