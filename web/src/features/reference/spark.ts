/** A small line through values from left to right; gaps where there is no value. What moves less than `least` looks flat. */
export function spark(values: (number | null)[], width: number, height: number, least = 0): string {
  const known = values.filter((v): v is number => v !== null)
  if (known.length < 2) return ''
  const range = Math.max(...known) - Math.min(...known)
  const span = Math.max(range, least) || 1
  const low = Math.min(...known) - (span - range) / 2
  const pad = 3
  let pen = false
  return values
    .map((v, i) => {
      if (v === null) {
        pen = false
        return ''
      }
      const x = Math.round((10 * (i * width)) / (values.length - 1)) / 10
      const y = Math.round(10 * (height - pad - ((v - low) / span) * (height - 2 * pad))) / 10
      const step = `${pen ? 'L' : 'M'}${x} ${y}`
      pen = true
      return step
    })
    .join('')
}
