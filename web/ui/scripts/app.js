// Small helpers for pages that also work without any script. Registered as
// components, because the policy of the pages forbids inline code.
document.documentElement.classList.add('scripted')

document.addEventListener('alpine:init', () => {
  // keys: the shortcuts of every page, and the list of them.
  Alpine.data('keys', () => ({
    pending: '',
    init() {
      document.addEventListener('keydown', (event) => this.press(event))
    },
    show() {
      this.$refs.keys.showModal()
    },
    press(event) {
      const typing = event.target.closest('input, textarea, select, [contenteditable]')
      if (typing || event.ctrlKey || event.metaKey || event.altKey || this.$refs.keys.open) return
      const places = { b: '/', a: '/machines', c: '/customers', m: '/models', p: '/parts', r: '/reckoner', s: '/settings' }
      if (this.pending === 'g' && places[event.key]) {
        window.location.assign(places[event.key])
      } else if (event.key === '?') {
        this.show()
      } else if (event.key === '/') {
        const find = document.querySelector('[data-find]')
        if (!find) return
        find.focus()
        find.select()
      } else if (event.key === 'l') {
        const line = document.querySelector('[data-line-text]')
        if (!line) return
        line.focus()
      } else if (event.key === 'n') {
        const fresh = document.querySelector('[data-new]')
        if (fresh) window.location.assign(fresh.href)
      } else {
        this.pending = event.key
        return
      }
      this.pending = ''
      event.preventDefault()
    },
  }))

  // rows: a list with spare rows that stay folded until asked for.
  Alpine.data('rows', () => ({
    shown: 0,
    all: 0,
    init() {
      this.all = this.$root.querySelectorAll('[data-row]').length
      this.shown = Number(this.$root.dataset.rows)
      this.fold()
    },
    get more() {
      return this.shown < this.all
    },
    fold() {
      this.$root.querySelectorAll('[data-row]').forEach((row, i) => { row.hidden = i >= this.shown })
    },
    add() {
      this.shown += 1
      this.fold()
      const row = this.$root.querySelectorAll('[data-row]')[this.shown - 1]
      row.querySelector('input:not([type=hidden]), select').focus()
    },
  }))

  Alpine.data('printer', () => ({
    print() {
      window.print()
    },
  }))
})

// A form is sent once: the second click of a double click does nothing. The server
// holds to this too; here it only saves the wait.
document.addEventListener('submit', (event) => {
  const form = event.target
  if (form.dataset.sent) {
    event.preventDefault()
    return
  }
  if (form.method === 'post') form.dataset.sent = 'yes'
})
window.addEventListener('pageshow', () => {
  document.querySelectorAll('form[data-sent]').forEach((form) => { delete form.dataset.sent })
})

// After a form came back with faults, the first of them has the focus.
document.addEventListener('DOMContentLoaded', () => {
  const wrong = document.querySelector('[aria-invalid=true]')
  if (wrong) wrong.focus()
})

// On a phone a table is rows of labelled lines, the first words what matters: each cell gets the name
// of its column, which the styles show there.
document.addEventListener('DOMContentLoaded', () => {
  document.querySelectorAll('.scroll > table:not(.benchlist)').forEach((table) => {
    const names = [...table.querySelectorAll('thead tr:first-child > *')].map((cell) => cell.textContent.trim())
    const rows = [...table.querySelectorAll('tbody tr')]
    if (names.length === 0 || rows.some((row) => row.children.length !== names.length)) return
    rows.forEach((row) => [...row.children].forEach((cell, i) => {
      if (i > 0 && names[i]) cell.dataset.th = names[i]
      if (cell.textContent.trim() === '' && !cell.querySelector('input, select, button, svg, img, textarea')) cell.classList.add('bareof')
    }))
    table.classList.add('stacked')
  })
})
