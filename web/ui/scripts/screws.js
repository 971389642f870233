// Where screws sit. The field of a group, "10 8, 157 8", is the truth; this draws the screws, and
// writes the field when one is put down, moved, mirrored or taken out.
(() => {
  const mat = document.querySelector('[data-mat]')
  const form = document.querySelector('[data-arrange]')
  const layer = mat?.querySelector('[data-screwlayer]')
  if (!layer || !form.querySelector('[data-screws]')) return
  const scale = Number(mat.dataset.scale)
  const [width, depth] = [Number(mat.dataset.width), Number(mat.dataset.depth)]
  const status = form.querySelector('[data-status]')
  const near = 3 // mm: two screws are not nearer
  const groups = [...form.querySelectorAll('[data-screws]')].map((row) => ({
    name: row.dataset.screws, count: Number(row.dataset.count), row,
    field: row.querySelector('input:not([type=radio])'), radio: row.querySelector('input[type=radio]'), told: row.querySelector('[data-placed]'),
  }))
  const buttons = { next: form.querySelector('[data-next]'), fill: form.querySelector('[data-fill]'), mirror: form.querySelector('[data-mirror]') }
  const tenth = (n) => Math.round(n * 10) / 10
  const within = (p) => ({ x: tenth(Math.min(Math.max(p.x, 0), width)), y: tenth(Math.min(Math.max(p.y, 0), depth)) })
  const chosen = () => groups.find((group) => group.radio.checked)

  function read(group) {
    return group.field.value.split(',').map((text) => text.trim().split(/\s+/).map(Number)).filter((p) => p.length === 2 && p.every(Number.isFinite)).map(([x, y]) => ({ x, y }))
  }
  function write(group, points) {
    group.field.value = points.map((p) => `${tenth(p.x)} ${tenth(p.y)}`).join(', ')
    draw()
  }
  // change writes and can be undone; the focus stays on the screw that was moved.
  function change(group, points, focus) {
    const before = group.field.value
    write(group, points)
    const after = group.field.value
    if (before === after) return
    const back = (text) => () => { group.field.value = text; draw() }
    form.dispatchEvent(new CustomEvent('screwed', { detail: { before: back(before), after: back(after) } }))
    status.textContent = `${group.name}: ${points.length} of ${group.count} placed`
    if (focus !== undefined) layer.querySelector(`[data-of="${CSS.escape(group.name)}"][data-at="${focus}"]`)?.focus({ preventScroll: true })
  }

  function draw() {
    const dots = []
    for (const group of groups) {
      const points = read(group)
      group.told.textContent = points.length === group.count ? 'All placed.' : `${points.length} of ${group.count} placed.`
      points.forEach((p, i) => {
        const dot = document.createElementNS('http://www.w3.org/2000/svg', 'circle')
        const set = { cx: p.x * scale, cy: p.y * scale, r: 7, class: `screwdot${group.radio.checked ? ' chosen' : ''}`, tabindex: 0, role: 'button', 'data-of': group.name, 'data-at': i, 'aria-label': `Screw ${i + 1} of ${group.name}, left ${tenth(p.x)}, top ${tenth(p.y)}` }
        for (const [name, value] of Object.entries(set)) dot.setAttribute(name, value)
        listen(dot, group, i)
        dots.push(dot)
      })
    }
    layer.replaceChildren(...dots)
    const group = chosen()
    const placed = group ? read(group).length : 0
    buttons.next.disabled = !group || placed >= group.count
    buttons.fill.disabled = !group || placed < 2 || placed >= group.count
    buttons.mirror.disabled = !group || placed === 0 || placed >= group.count
  }

  const place = (event) => {
    const at = new DOMPoint(event.clientX, event.clientY).matrixTransform(layer.getScreenCTM().inverse())
    return within({ x: at.x / scale, y: at.y / scale })
  }

  function listen(dot, group, i) {
    let moving = false
    dot.addEventListener('pointerdown', (event) => {
      if (event.button !== 0) return
      event.preventDefault()
      event.stopPropagation()
      dot.setPointerCapture(event.pointerId)
      dot.focus({ preventScroll: true })
      moving = true
    })
    dot.addEventListener('pointermove', (event) => {
      if (!moving) return
      const at = place(event)
      dot.setAttribute('cx', at.x * scale)
      dot.setAttribute('cy', at.y * scale)
    })
    dot.addEventListener('pointerup', (event) => {
      if (!moving) return
      moving = false
      const points = read(group)
      points[i] = place(event)
      change(group, points, i)
    })
    dot.addEventListener('pointercancel', () => { moving = false; draw() })
    dot.addEventListener('keydown', (event) => {
      if (event.ctrlKey || event.metaKey || event.altKey) return
      const by = event.shiftKey ? 10 : 1
      const moves = { ArrowLeft: [-by, 0], ArrowRight: [by, 0], ArrowUp: [0, -by], ArrowDown: [0, by] }
      const points = read(group)
      if (moves[event.key]) {
        points[i] = within({ x: points[i].x + moves[event.key][0], y: points[i].y + moves[event.key][1] })
        change(group, points, i)
      } else if (event.key === 'Delete' || event.key === 'Backspace') {
        points.splice(i, 1)
        change(group, points, Math.min(i, points.length - 1))
      } else {
        return
      }
      event.preventDefault()
      event.stopPropagation()
    })
  }

  mat.addEventListener('click', (event) => {
    const group = chosen()
    if (!group || event.target.closest('[data-thing], .screwdot')) return
    const points = read(group)
    if (points.length < group.count) change(group, [...points, place(event)], points.length)
  })
  buttons.next.addEventListener('click', () => {
    const points = read(chosen())
    const last = points[points.length - 1]
    change(chosen(), [...points, within(last ? { x: last.x + 20, y: last.y } : { x: 8, y: 8 })], points.length)
  })
  // The edge is filled: what is not placed yet, evenly between the first and the last.
  buttons.fill.addEventListener('click', () => {
    const group = chosen()
    const points = read(group)
    const [first, last, missing] = [points[0], points[points.length - 1], group.count - points.length]
    const more = Array.from({ length: missing }, (_, i) => {
      const part = (i + 1) / (missing + 1)
      return within({ x: first.x + (last.x - first.x) * part, y: first.y + (last.y - first.y) * part })
    })
    change(group, [...points.slice(0, -1), ...more, last])
  })
  buttons.mirror.addEventListener('click', () => {
    const group = chosen()
    const points = read(group)
    const out = [...points]
    for (const p of points) {
      const twin = within({ x: width - p.x, y: p.y })
      if (out.length < group.count && !out.some((o) => Math.hypot(o.x - twin.x, o.y - twin.y) < near)) out.push(twin)
    }
    change(group, out)
  })
  for (const group of groups) {
    group.field.addEventListener('input', draw)
    group.radio.addEventListener('change', draw)
  }
  draw()
})()
