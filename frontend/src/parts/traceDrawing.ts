import type UPlot from 'uplot'

/** What is drawn on a picture beside its lines. */
export interface Drawn {
  lines: { label: string; scale: string; width?: number; crosses?: boolean }[]
  marks?: { at: number; text: string }[]
  band?: [number, number]
  level?: [number, number]
  here?: number
}

/** The hooks that draw it, from the props as they are when the picture is drawn. */
export function drawing(props: Drawn) {
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

  /** Marks that are seen, each with its words; those that would lie on their neighbour's go a line down. */
  function drawMarks(u: UPlot) {
    const { ctx } = u
    ctx.save()
    ctx.fillStyle = css('--ink')
    ctx.strokeStyle = css('--ink')
    ctx.font = `${14 * devicePixelRatio}px 'Atkinson Hyperlegible'`
    ctx.setLineDash([4, 4])
    const seen = (props.marks ?? [])
      .map((mark) => ({ text: mark.text, x: u.valToPos(mark.at, 'x', true), width: ctx.measureText(mark.text).width }))
      .filter(({ x }) => x >= u.bbox.left && x <= u.bbox.left + u.bbox.width)
      .sort((a, b) => a.x - b.x)
    const rows = rowsOfWords(
      seen,
      Math.max(Math.floor(u.bbox.height / (18 * devicePixelRatio)) - 1, 1),
      10 * devicePixelRatio,
    )
    seen.forEach(({ text, x }, k) => {
      ctx.beginPath()
      ctx.moveTo(x, u.bbox.top)
      ctx.lineTo(x, u.bbox.top + u.bbox.height)
      ctx.stroke()
      const y = u.bbox.top + (16 + (rows[k] ?? 0) * 18) * devicePixelRatio
      ctx.save() // a halo of paper, so that a neighbour's line does not cross the words
      ctx.setLineDash([])
      ctx.lineWidth = 5 * devicePixelRatio
      ctx.strokeStyle = css('--paper')
      ctx.strokeText(text, x + 4, y)
      ctx.restore()
      ctx.fillText(text, x + 4, y)
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
    const apart = Math.min(17 * devicePixelRatio, u.bbox.height / Math.max(dots.length, 1))
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

  /** A cross at each figure of what did not go well: it reads without colour. */
  function drawCrosses(u: UPlot) {
    const { ctx } = u
    const arm = 7 * devicePixelRatio
    ctx.save()
    ctx.strokeStyle = css('--look')
    ctx.lineWidth = 3 * devicePixelRatio
    props.lines.forEach((line, k) => {
      if (!line.crosses || !u.scales[line.scale]) return
      u.data[k + 1]?.forEach((value, row) => {
        if (typeof value !== 'number') return
        const [x, y] = [u.valToPos(u.data[0][row]!, 'x', true), u.valToPos(value, line.scale, true)]
        ctx.beginPath()
        ctx.moveTo(x - arm, y - arm)
        ctx.lineTo(x + arm, y + arm)
        ctx.moveTo(x - arm, y + arm)
        ctx.lineTo(x + arm, y - arm)
        ctx.stroke()
      })
    })
    ctx.restore()
  }

  return { css, drawBand, drawLevel, drawMarks, drawHere, drawCrosses }
}

/** The row for each of words that begin at `x` from left to right: the highest that is free there, else the one that is free soonest. */
export function rowsOfWords(words: readonly { x: number; width: number }[], rows: number, gap: number): number[] {
  const free = new Array<number>(rows).fill(-Infinity)
  return words.map(({ x, width }) => {
    const open = free.findIndex((end) => end <= x)
    const row = open >= 0 ? open : free.indexOf(Math.min(...free))
    free[row] = Math.max(free[row] ?? -Infinity, x + width + gap)
    return row
  })
}
