// The counter and the bench: a scanner that types, forms that keep what was typed,
// the signature, files that are dropped, and the running trace of the power meter.

// scan: a scanner types a label faster than anybody can, and ends with Enter. What it
// typed is taken out of the field that had the focus.
const scan = { text: '', last: 0, field: null, before: '', at: 0, end: 0 }
const burst = 50 // ms between two keys at most
document.addEventListener('keydown', (event) => {
  const now = performance.now()
  const quick = now - scan.last < burst
  scan.last = now
  if (event.key === 'Enter') {
    // A label is taken wherever it is scanned; another code is what it was scanned into, or, where that
    // was no field, something to be found.
    const label = /^YB-\d{1,10}$/i.test(scan.text)
    if (quick && (label || (!scan.field && scan.text.length >= 4))) {
      event.preventDefault()
      event.stopImmediatePropagation()
      if (scan.field) {
        scan.field.value = scan.before
        scan.field.setSelectionRange?.(scan.at, scan.end)
        scan.field.dispatchEvent(new Event('input', { bubbles: true }))
      }
      // A page may take what is no label for itself.
      const free = label || document.dispatchEvent(new CustomEvent('scanned', { detail: scan.text, cancelable: true }))
      if (free) window.location.assign('/find?code=' + encodeURIComponent(label ? scan.text.toUpperCase() : scan.text))
    }
    scan.text = ''
    return
  }
  if (event.key === 'Tab') scan.text = ''
  if (event.key.length !== 1 || event.ctrlKey || event.metaKey || event.altKey) return
  const field = event.target.closest('input, textarea, select')
  if (!quick || scan.text === '') {
    scan.text = ''
    scan.field = field && typeof field.value === 'string' && field.type !== 'checkbox' && field.type !== 'radio' ? field : null
    scan.before = scan.field ? scan.field.value : ''
    try {
      scan.at = scan.field?.selectionStart ?? 0
      scan.end = scan.field?.selectionEnd ?? 0
    } catch {
      scan.at = scan.end = 0
    }
  }
  scan.text += event.key
}, true)

// Ctrl and Enter send the form that says so, from any of its fields.
document.addEventListener('keydown', (event) => {
  if (event.key !== 'Enter' || !(event.ctrlKey || event.metaKey)) return
  const button = event.target.closest('form')?.querySelector('[data-enter]')
  if (!button) return
  event.preventDefault()
  button.click()
})

// A form with data-keep holds what was typed while the page is left, by a scan, a wrong
// key or a crash; it is let go when the form is sent.
document.addEventListener('DOMContentLoaded', () => {
  const form = document.querySelector('form[data-keep]')
  if (!form) {
    // Where the form led to after it was taken.
    const sent = sessionStorage.getItem('kept sent')
    if (sent) {
      sessionStorage.removeItem(sent)
      sessionStorage.removeItem('kept sent')
    }
    return
  }
  const key = 'kept ' + form.dataset.keep
  const fields = () => [...form.elements].filter((f) => f.name && !['hidden', 'submit', 'button', 'file'].includes(f.type))
  const kept = sessionStorage.getItem(key)
  const faulty = document.querySelector('.faults')
  if (kept && !faulty) {
    const values = new Set(JSON.parse(kept))
    let changed = false
    fields().forEach((f) => {
      const box = f.type === 'checkbox' || f.type === 'radio'
      if (box) {
        const on = values.has(f.name + '=' + f.value)
        changed = changed || on !== f.checked
        f.checked = on
        return
      }
      for (const v of values) {
        if (v.startsWith(f.name + '=')) {
          const text = v.slice(f.name.length + 1)
          changed = changed || text !== f.value
          f.value = text
        }
      }
    })
    form.querySelector('[data-kept]').hidden = !changed
  }
  form.addEventListener('input', () => {
    const values = fields().filter((f) => !['checkbox', 'radio'].includes(f.type) || f.checked).map((f) => f.name + '=' + f.value)
    sessionStorage.setItem(key, JSON.stringify(values))
  })
  form.addEventListener('submit', () => sessionStorage.setItem('kept sent', key))
  form.querySelector('[data-drop]').addEventListener('click', () => {
    sessionStorage.removeItem(key)
    window.location.reload()
  })
})

document.addEventListener('alpine:init', () => {
  // signature: strokes in a box of 400 by 120, kept as moves and lines.
  Alpine.data('signature', () => ({
    strokes: [],
    drawing: false,
    init() {
      const pad = this.$refs.pad
      pad.addEventListener('pointerdown', (event) => {
        pad.setPointerCapture(event.pointerId)
        this.drawing = true
        this.strokes.push([this.at(event)])
        event.preventDefault()
      })
      pad.addEventListener('pointermove', (event) => {
        if (!this.drawing) return
        const stroke = this.strokes[this.strokes.length - 1]
        const [x, y] = this.at(event)
        const [px, py] = stroke[stroke.length - 1]
        if (Math.hypot(x - px, y - py) < 2) return
        stroke.push([x, y])
        this.draw()
      })
      pad.addEventListener('pointerup', () => this.stop())
      pad.addEventListener('pointercancel', () => this.stop())
    },
    at(event) {
      const box = this.$refs.pad.getBoundingClientRect()
      const clip = (v, most) => Math.round(Math.min(Math.max(v, 0), most))
      return [clip((event.clientX - box.left) / box.width * 400, 400), clip((event.clientY - box.top) / box.height * 120, 120)]
    },
    stop() {
      this.drawing = false
      this.$refs.path.value = this.strokes.map((s) => (s.length > 1 ? s : [s[0], s[0]]).map(([x, y], i) => (i ? 'L' : 'M') + x + ' ' + y).join(' ')).join(' ')
    },
    draw() {
      const pad = this.$refs.pad
      const g = pad.getContext('2d')
      g.clearRect(0, 0, pad.width, pad.height)
      g.strokeStyle = getComputedStyle(pad).color
      g.lineWidth = 4
      g.lineCap = g.lineJoin = 'round'
      this.strokes.forEach((s) => {
        g.beginPath()
        s.forEach(([x, y], i) => (i ? g.lineTo(x * 2, y * 2) : g.moveTo(x * 2, y * 2)))
        g.stroke()
      })
    },
    clear() {
      this.strokes = []
      this.$refs.path.value = ''
      this.draw()
    },
  }))

  // drop: files dropped on a form go into its file field.
  Alpine.data('drop', () => ({
    over() {
      this.$refs.box.classList.add('over')
    },
    leave() {
      this.$refs.box.classList.remove('over')
    },
    take(event) {
      this.leave()
      if (event.dataTransfer.files.length > 0) this.$refs.files.files = event.dataTransfer.files
    },
  }))

  // meter: draws what the server reads and sums.
  Alpine.data('meter', () => ({
    running: false,
    w: '–', mean: '–', min: '–', max: '–', wh: '–', t: 0, lost: '',
    points: [],
    stream: null,
    get label() {
      return this.running ? 'Stop' : 'Start measuring'
    },
    get fine() {
      return this.lost === ''
    },
    toggle() {
      if (this.running) {
        this.end()
        return
      }
      this.running = true
      this.lost = ''
      this.points = []
      this.stream = new EventSource(this.$root.dataset.events)
      this.stream.onmessage = (event) => this.take(JSON.parse(event.data))
      this.stream.onerror = () => {
        // A stream that is taken up again would begin at nought: what was measured stands.
        this.lost = 'Meter stopped responding. Measurements so far are saved.'
        this.end()
      }
    },
    end() {
      this.running = false
      this.stream?.close()
    },
    take(p) {
      Object.assign(this, { w: p.w, mean: p.mean, min: p.min, max: p.max, wh: p.wh, t: p.t })
      document.querySelector('[data-trace]').value = p.id
      this.points.push(p.w)
      if (this.points.length > 300) this.points.shift()
      this.draw(p)
    },
    draw(p) {
      const box = this.$refs.box
      const unit = window.devicePixelRatio || 1
      box.width = box.clientWidth * unit
      box.height = box.clientHeight * unit
      const g = box.getContext('2d')
      g.scale(unit, unit)
      const [width, height] = [box.clientWidth, box.clientHeight]
      const look = getComputedStyle(box)
      const left = 62
      const most = Math.max(p.max * 1.15, 1)
      const y = (w) => height - 16 - (w / most) * (height - 30)
      const x = (i) => left + i * (width - left - 8) / Math.max(this.points.length - 1, 59)
      g.font = '12px ' + look.fontFamily
      g.fillStyle = look.getPropertyValue('--color-pencil')
      g.strokeStyle = look.getPropertyValue('--color-line')
      g.lineWidth = 1
      for (let k = 0; k <= 4; k++) {
        const w = most * k / 4
        g.beginPath()
        g.moveTo(left, y(w))
        g.lineTo(width - 8, y(w))
        g.stroke()
        g.fillText(w.toFixed(1) + ' W', 5, y(w) + 4)
      }
      g.strokeStyle = look.getPropertyValue('--color-ink')
      g.lineWidth = 2
      g.beginPath()
      this.points.forEach((w, i) => (i ? g.lineTo(x(i), y(w)) : g.moveTo(x(i), y(w))))
      g.stroke()
      g.strokeStyle = g.fillStyle = look.getPropertyValue('--color-action')
      g.setLineDash([8, 6])
      g.beginPath()
      g.moveTo(left, y(p.mean))
      g.lineTo(width - 8, y(p.mean))
      g.stroke()
      g.setLineDash([])
      g.fillText('mean ' + p.mean + ' W', left + 8, y(p.mean) - 8)
    },
  }))
})
