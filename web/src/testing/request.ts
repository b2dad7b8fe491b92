/** A request that is sent by itself, since only that tells how far it is; it answers when a test says so. */
export class StandInRequest {
  static last: StandInRequest
  upload: { onprogress?: (e: object) => void; onload?: () => void } = {}
  onloadend = () => {}
  status = 0
  responseText = ''
  url = ''
  aborted = false
  constructor() {
    StandInRequest.last = this
  }
  open(_: string, url: string) {
    this.url = url
  }
  setRequestHeader() {}
  send() {}
  abort() {
    this.aborted = true
    this.onloadend()
  }
  answer(status: number, body: unknown) {
    this.status = status
    this.responseText = JSON.stringify(body)
    this.onloadend()
  }
}
