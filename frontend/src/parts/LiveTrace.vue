<script setup lang="ts">
import { useResizeObserver } from '@vueuse/core'
import UPlot from 'uplot'
import 'uplot/dist/uPlot.min.css'
import { onBeforeUnmount, onMounted, useTemplateRef, watch } from 'vue'

/** Lines against a common axis, drawn fast. Each line has its own scale when `scale` differs. */
const props = defineProps<{
  /** The axis (time or fuel flow), then one array for each line. */
  data: (number | null)[][]
  /** What each line is: label, scale name, dashed or not. */
  lines: { label: string; scale: string; dash?: number[]; width?: number; points?: boolean }[]
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
}>()
const emit = defineEmits<{
  /** A place of the axis was tapped: the number of the nearest point. */
  picked: [place: number]
}>()
const DAY = new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'short', year: '2-digit' })
function pick(event: MouseEvent) {
  if (!plot || !box.value) return
  const left = event.clientX - box.value.getBoundingClientRect().left - plot.bbox.left / devicePixelRatio
  emit('picked', plot.posToIdx(left))
}
const box = useTemplateRef<HTMLDivElement>('box')
let plot: UPlot | undefined

const css = (name: string) => getComputedStyle(document.documentElement).getPropertyValue(name).trim()

/** Hatch, not colour, says what to avoid: it reads in any light and to any eye. */
function drawBand(u: UPlot) {
  if (!props.band) return
  const { ctx, bbox } = u
  const left = Math.max(u.valToPos(props.band[0], 'x', true), bbox.left)
  const right = Math.min(u.valToPos(props.band[1], 'x', true), bbox.left + bbox.width)
  if (!(right > left)) return
  ctx.save()
  ctx.beginPath()
  ctx.rect(left, bbox.top, right - left, bbox.height)
  ctx.clip()
  ctx.strokeStyle = css('--line')
  ctx.lineWidth = 2 * devicePixelRatio
  for (let x = left - bbox.height; x < right; x += 14 * devicePixelRatio) {
    ctx.beginPath()
    ctx.moveTo(x, bbox.top + bbox.height)
    ctx.lineTo(x + bbox.height, bbox.top)
    ctx.stroke()
  }
  ctx.restore()
}

function drawLevel(u: UPlot) {
  if (!props.level) return
  const { ctx, bbox } = u
  const scale = props.lines[0]?.scale ?? ''
  if (!u.scales[scale]) return
  const top = Math.max(u.valToPos(props.level[1], scale, true), bbox.top)
  const bottom = Math.min(u.valToPos(props.level[0], scale, true), bbox.top + bbox.height)
  if (!(bottom > top)) return
  ctx.save()
  ctx.globalAlpha = 0.45
  ctx.fillStyle = css('--line')
  ctx.fillRect(bbox.left, top, bbox.width, bottom - top)
  ctx.restore()
}

function drawMarks(u: UPlot) {
  const { ctx } = u
  ctx.save()
  ctx.fillStyle = css('--ink')
  ctx.strokeStyle = css('--ink')
  ctx.font = `${14 * devicePixelRatio}px 'Atkinson Hyperlegible'`
  ctx.setLineDash([4, 4])
  props.marks?.forEach((mark, k) => {
    const x = u.valToPos(mark.at, 'x', true)
    ctx.beginPath()
    ctx.moveTo(x, u.bbox.top)
    ctx.lineTo(x, u.bbox.top + u.bbox.height)
    ctx.stroke()
    const y = u.bbox.top + (16 + k * 18) * devicePixelRatio
    ctx.save() // a halo of paper, so that a neighbour's line does not cross the words
    ctx.setLineDash([])
    ctx.lineWidth = 5 * devicePixelRatio
    ctx.strokeStyle = css('--paper')
    ctx.strokeText(mark.text, x + 4, y)
    ctx.restore()
    ctx.fillText(mark.text, x + 4, y)
  })
  ctx.restore()
}

/** A dot on each line at the own position, its name beside it; names that would lie on each other move apart. */
function drawHere(u: UPlot) {
  if (props.here === undefined) return
  const row = u.valToIdx(props.here)
  const dots = props.lines
    .map((line, k) => ({ line, value: u.scales[line.scale] && u.data[k + 1]?.[row] }))
    .filter((dot): dot is { line: (typeof props.lines)[number]; value: number } => typeof dot.value === 'number')
    .map(({ line, value }) => ({ line, y: u.valToPos(value, line.scale, true) }))
    .sort((a, b) => a.y - b.y)
  const { ctx } = u
  const x = u.valToPos(props.here, 'x', true)
  const apart = 17 * devicePixelRatio
  let free = -Infinity
  ctx.save()
  ctx.fillStyle = css('--ink')
  ctx.font = `bold ${15 * devicePixelRatio}px 'Atkinson Hyperlegible'`
  ctx.textBaseline = 'middle'
  ctx.lineWidth = 5 * devicePixelRatio
  ctx.strokeStyle = css('--paper')
  for (const { line, y } of dots) {
    ctx.beginPath()
    ctx.arc(x, y, (line.width ? 6 : 4) * devicePixelRatio, 0, 2 * Math.PI)
    ctx.fill()
    const at = Math.max(y, free)
    free = at + apart
    const left = x - ctx.measureText(line.label).width - 10 * devicePixelRatio
    ctx.strokeText(line.label, left, at)
    ctx.fillText(line.label, left, at)
  }
  ctx.restore()
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
      size: 56,
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
      scales: { x: { time: false, range: withRoom } },
      cursor: { show: false },
      axes,
      hooks: { drawClear: [drawBand, drawLevel], draw: [drawMarks, drawHere] },
      series: [
        {},
        ...props.lines.map((l) => ({
          label: l.label,
          scale: l.scale,
          stroke: l.scale === scales[0] ? ink : css('--soft'),
          width: l.points && !l.width ? 0 : (l.width ?? 2),
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
</script>

<template><div ref="box" class="plot" role="img" :aria-label="label" @click="pick"></div></template>

<style scoped>
.plot {
  position: absolute;
  inset: 0;
  overflow: hidden;
}
</style>
