// Codes by camera: wherever a code is wanted, a button beside its field reads one, live where the page is secure and
// there is a camera, else from a picture that the server reads. What is read goes the way of what a scanner types.
document.addEventListener('alpine:init', () => {
  // codereader is on an element that holds a field, the button and a dialog.
  Alpine.data('codereader', () => ({
    says: '',
    controls: null,

    get field() {
      return this.$root.querySelector('input:not([type="file"]), textarea')
    },
    get dialog() {
      return this.$root.querySelector('dialog')
    },

    async open() {
      this.says = ''
      this.dialog.showModal()
      const video = this.dialog.querySelector('video')
      video.hidden = !(window.isSecureContext && navigator.mediaDevices?.getUserMedia)
      if (video.hidden) return
      this.says = 'Hold the code before the camera.'
      try {
        await library(this.dialog.dataset.library)
        const reader = new window.ZXingBrowser.BrowserMultiFormatReader()
        this.controls = await reader.decodeFromConstraints({ video: { facingMode: 'environment' } }, video, (found) => {
          if (found && this.dialog.open) this.take(found.getText())
        })
        if (!this.dialog.open) this.stop() // closed before the camera was ready
      } catch (failure) {
        video.hidden = true
        this.says = failure?.name === 'NotAllowedError' ? 'The camera is not allowed here: take a picture instead.'
          : 'No camera can be used here: take a picture instead.'
      }
    },

    // picture sends a picture to the server, which reads the code.
    async picture(event) {
      const file = event.target.files[0]
      if (!file) return
      this.says = 'Reading …'
      const form = new FormData()
      form.set('csrf', document.querySelector('input[name="csrf"]').value)
      form.set('photo', file)
      event.target.value = ''
      try {
        const answer = await fetch('/find', { method: 'POST', body: form, headers: { Accept: 'application/json' } })
        const told = await answer.json()
        if (told.code) this.take(told.code)
        else this.says = told.text
      } catch {
        this.says = 'The picture could not be sent. Try again, or type the code.'
      }
    },

    // take gives what was read to the field, as if it had been scanned into it.
    take(code) {
      const { field } = this
      this.close()
      navigator.vibrate?.(60)
      if (field.hasAttribute('data-scanhere')) {
        document.dispatchEvent(new CustomEvent('scanned', { detail: code, cancelable: true }))
        return
      }
      const more = field.hasAttribute('data-several') && field.value.trim() !== ''
      field.value = more ? field.value.trimEnd() + (field.tagName === 'TEXTAREA' ? '\n' : ', ') + code : code
      field.dispatchEvent(new Event('input', { bubbles: true }))
      field.focus()
      if (field.hasAttribute('data-find')) field.form.requestSubmit()
    },

    close() {
      this.stop()
      this.dialog.close()
    },
    stop() {
      this.controls?.stop()
      this.controls = null
    },
  }))
})

// library loads the reader of codes once, when it is first wanted: it is larger than everything else together.
let loading
function library(url) {
  loading ??= new Promise((resolve, reject) => {
    const script = document.createElement('script')
    script.src = url
    script.onload = resolve
    script.onerror = () => {
      loading = undefined
      reject(new Error('the reader of codes did not load'))
    }
    document.head.append(script)
  })
  return loading
}
