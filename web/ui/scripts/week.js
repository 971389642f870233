// The week on the benches: a job is moved over the drawing by drag or by keys, and what that would break is shown while it
// moves. Letting go sends the form that "Move to" sends without any script.
document.addEventListener('alpine:init', () => {
  const quarter = 15 * 60 * 1000
  const two = (n) => String(n).padStart(2, '0')
  // A moment on the wall clock of the shop: the drawing's own offset is kept, whatever this computer's is.
  const wall = (text) => ({ at: Date.parse(text.slice(0, 16) + ':00Z'), zone: text.slice(19) || 'Z' })
  const written = (at) => {
    const d = new Date(at)
    return `${d.getUTCFullYear()}-${two(d.getUTCMonth() + 1)}-${two(d.getUTCDate())} ${two(d.getUTCHours())}:${two(d.getUTCMinutes())}`
  }

  Alpine.data('printer', () => ({
    print() {
      window.print()
    },
  }))

  Alpine.data('week', () => ({
    held: null,
    says: '',
    asking: null,
    soon: 0,
    news: '',
    stale: false,
    stream: null,

    init() {
      this.news = sessionStorage.getItem('week-news') || ''
      sessionStorage.removeItem('week-news')
      document.addEventListener('visibilitychange', () => this.follow())
      window.addEventListener('pagehide', () => this.stream?.close())
      this.follow()
      document.addEventListener('keydown', (event) => this.press(event), true)
      this.$root.querySelectorAll('svg[data-week]').forEach((svg) => {
        svg.addEventListener('pointerdown', (event) => this.down(event, svg))
        svg.addEventListener('click', (event) => this.place(event, svg))
      })
    },
    // follow shows what changes while the page is looked at: at once, or on a press where something is held or typed.
    follow() {
      this.stream?.close()
      if (document.hidden) return
      this.stream = new EventSource(this.$root.dataset.events)
      this.stream.onmessage = (event) => {
        const says = JSON.parse(event.data).says.join('; ') + '.'
        const typing = [...document.querySelectorAll('main input:not([type=hidden]), main select, main textarea')].some((field) =>
          field === document.activeElement || (field.defaultValue !== undefined && field.value !== field.defaultValue))
        if (this.held || typing) {
          this.news = says
          this.stale = true
          return
        }
        sessionStorage.setItem('week-news', says)
        location.reload()
      }
    },
    get svg() {
      return [...this.$root.querySelectorAll('svg[data-week]')].find((svg) => svg.clientWidth > 0)
    },
    days(svg) {
      return [...svg.querySelectorAll('[data-day]')].map((g) => ({
        x: Number(g.dataset.x), end: Number(g.dataset.end), per: Number(g.dataset.per), ...wall(g.dataset.from),
      }))
    },
    lanes(svg) {
      return [...svg.querySelectorAll('[data-lane]')].map((g) => ({ n: Number(g.dataset.lane), y: Number(g.dataset.y) }))
    },
    // when is the quarter of an hour at a place of the drawing.
    when(svg, x) {
      const days = this.days(svg)
      const day = days.find((d) => x <= d.end + 7) || days[days.length - 1]
      const minutes = Math.max(0, Math.min(x, day.end) - day.x) * day.per
      return { at: day.at + Math.round(minutes / 15) * quarter, zone: day.zone }
    },
    // xOf is where a moment stands; what lies outside of a day goes to the next opening, or back to the closing before.
    xOf(svg, at, forward) {
      const days = this.days(svg)
      for (const [i, d] of days.entries()) {
        const end = d.at + (d.end - d.x) * d.per * 60000
        if (at < d.at) return forward || i === 0 ? { x: d.x, at: d.at, zone: d.zone } : { x: days[i - 1].end, at: days[i - 1].at + (days[i - 1].end - days[i - 1].x) * days[i - 1].per * 60000 - quarter, zone: days[i - 1].zone }
        if (at < end) return { x: d.x + (at - d.at) / 60000 / d.per, at, zone: d.zone }
      }
      const last = days[days.length - 1]
      return { x: last.end, at: last.at + (last.end - last.x) * last.per * 60000 - quarter, zone: last.zone }
    },
    point(svg, event) {
      return new DOMPoint(event.clientX, event.clientY).matrixTransform(svg.getScreenCTM().inverse())
    },

    hold(link, svg, grip = 0) {
      if (link.dataset.seen === undefined) {
        this.says = 'It is under way, and cannot be moved.'
        return
      }
      const was = link.cloneNode(true)
      was.dataset.was = ''
      was.setAttribute('aria-hidden', 'true')
      was.querySelectorAll('text, title, [data-hit], [data-pin]').forEach((node) => node.remove())
      link.before(was)
      link.dataset.held = ''
      const x = Number(link.dataset.at)
      this.held = { link, svg, was, grip, bench: Number(link.dataset.bench), from: Number(link.dataset.bench), x0: x, ...this.when(svg, x) }
      this.says = 'Held. Arrow keys move it, Enter puts it, Escape leaves it.'
    },
    move(at, zone, bench, x) {
      const h = this.held
      const lanes = this.lanes(h.svg)
      Object.assign(h, { at, zone, bench })
      const dy = lanes.find((l) => l.n === bench).y - lanes.find((l) => l.n === h.from).y
      h.link.setAttribute('transform', `translate(${x - h.x0} ${dy})`)
      clearTimeout(this.soon)
      this.soon = setTimeout(() => this.ask(), 90)
    },
    async ask() {
      const h = this.held
      if (!h) return
      this.asking?.abort()
      this.asking = new AbortController()
      const start = written(h.at).replace(' ', 'T') + ':00' + h.zone
      const asked = new URLSearchParams({ job: h.link.dataset.job, bench: h.bench, start })
      try {
        const answer = await fetch('/week/try?' + asked, { signal: this.asking.signal })
        if (!answer.ok) throw new Error(answer.status)
        const told = await answer.json()
        if (this.held !== h) return
        h.link.toggleAttribute('data-refused', !told.stands)
        h.svg.querySelectorAll('[data-flag]').forEach((flag) => {
          flag.toggleAttribute('data-breaks', told.breaks.includes(Number(flag.dataset.flag)))
        })
        this.says = told.says.charAt(0).toUpperCase() + told.says.slice(1)
      } catch (fault) {
        if (fault.name !== 'AbortError') this.says = 'What it would break is not known: the server does not answer.'
      }
    },
    leave() {
      const h = this.held
      if (!h) return
      clearTimeout(this.soon)
      this.asking?.abort()
      h.was.remove()
      h.link.removeAttribute('data-held')
      h.link.removeAttribute('data-refused')
      h.link.removeAttribute('transform')
      h.svg.querySelectorAll('[data-breaks]').forEach((flag) => flag.removeAttribute('data-breaks'))
      this.held = null
      this.says = 'Left where it was.'
    },
    put() {
      const h = this.held
      const form = this.$refs.put
      form.elements.job.value = h.link.dataset.job
      form.elements.seen.value = h.link.dataset.seen
      form.elements['/bench'].value = h.bench
      form.elements['/start'].value = written(h.at)
      form.submit()
    },

    down(event, svg) {
      const link = event.target.closest('a[data-job]')
      if (!link || link.dataset.seen === undefined || event.button > 0 || this.held) return
      const from = this.point(svg, event)
      const grip = from.x - Number(link.dataset.at)
      const touch = event.pointerType === 'touch'
      let moving = false
      const begin = () => {
        moving = true
        this.hold(link, svg, grip)
        svg.setPointerCapture?.(event.pointerId)
      }
      const timer = touch ? setTimeout(begin, 300) : 0
      const drag = (e) => {
        const at = this.point(svg, e)
        if (!moving) {
          const far = Math.hypot(at.x - from.x, at.y - from.y)
          if (touch && far > 8) return stop()
          if (!touch && far > 4) begin()
          if (!moving) return
        }
        e.preventDefault()
        const lane = this.lanes(svg).reduce((a, b) => (Math.abs(b.y - at.y) < Math.abs(a.y - at.y) ? b : a))
        const { at: time, zone } = this.when(svg, at.x - this.held.grip)
        this.move(time, zone, lane.n, this.xOf(svg, time, true).x)
      }
      const stop = () => {
        clearTimeout(timer)
        svg.removeEventListener('pointermove', drag)
        window.removeEventListener('pointerup', up)
        window.removeEventListener('pointercancel', cancel)
        window.removeEventListener('keydown', escape, true)
      }
      const up = () => {
        stop()
        if (!moving || !this.held) return
        // The press that ends a drag opens nothing.
        window.addEventListener('click', (e) => { e.preventDefault(); e.stopPropagation() }, { capture: true, once: true })
        this.put()
      }
      const cancel = () => {
        stop()
        this.leave()
      }
      const escape = (e) => {
        if (e.key === 'Escape') cancel()
      }
      svg.addEventListener('pointermove', drag)
      window.addEventListener('pointerup', up)
      window.addEventListener('pointercancel', cancel)
      window.addEventListener('keydown', escape, true)
      link.addEventListener('dragstart', (e) => e.preventDefault(), { once: true })
    },
    // place fills in "Move to" for the job that is looked at: a press on a lane says where.
    place(event, svg) {
      const bench = document.querySelector('#chosen [name="/bench"]')
      if (!bench || this.held || event.target.closest('a')) return
      const at = this.point(svg, event)
      const lane = this.lanes(svg).reduce((a, b) => (Math.abs(b.y - at.y) < Math.abs(a.y - at.y) ? b : a))
      if (Math.abs(lane.y - at.y) > 70) return
      bench.value = lane.n
      const start = document.querySelector('#chosen [name="/start"]')
      start.value = written(this.when(svg, at.x).at)
      start.focus()
    },

    press(event) {
      if (event.ctrlKey || event.metaKey || event.altKey || event.target.closest('input, textarea, select, dialog[open]')) return
      const svg = this.svg
      const link = event.target.closest?.('a[data-job]')
      const done = () => {
        event.preventDefault()
        event.stopImmediatePropagation()
      }
      if (this.held) {
        const h = this.held
        const step = (event.shiftKey ? 4 : 1) * quarter
        const lanes = this.lanes(h.svg)
        const go = (at, bench, forward) => {
          const to = this.xOf(h.svg, at, forward)
          this.move(to.at, to.zone, bench, to.x)
        }
        const acts = {
          ArrowLeft: () => go(h.at - step, h.bench, false),
          ArrowRight: () => go(h.at + step, h.bench, true),
          ArrowUp: () => go(h.at, Math.max(1, h.bench - 1), true),
          ArrowDown: () => go(h.at, Math.min(lanes.length, h.bench + 1), true),
          Enter: () => this.put(),
          Escape: () => this.leave(),
        }
        if (acts[event.key]) {
          done()
          acts[event.key]()
        }
        return
      }
      const dives = () => [...svg.querySelectorAll('a[data-job]')].sort((a, b) => a.dataset.at - b.dataset.at)
      const step = (by) => {
        const all = dives()
        const at = all.indexOf(document.activeElement)
        all[at < 0 ? (by > 0 ? 0 : all.length - 1) : Math.min(Math.max(at + by, 0), all.length - 1)]?.focus()
      }
      const acts = {
        j: () => step(1),
        k: () => step(-1),
        w: () => link && window.location.assign(link.href),
        o: () => {
          const offers = [...document.querySelectorAll('[data-offer]')]
          offers[(offers.indexOf(document.activeElement) + 1) % offers.length]?.focus()
        },
        Enter: () => link && this.hold(link, svg),
      }
      if (!svg || !acts[event.key] || (event.key === 'w' || event.key === 'Enter') && !link) return
      done()
      acts[event.key]()
    },
  }))
})
