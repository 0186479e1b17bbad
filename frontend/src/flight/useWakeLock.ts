import { onScopeDispose } from 'vue'

/** Keep the screen awake while this view is open, where the browser can. */
export function useWakeLock() {
  let lock: WakeLockSentinel | undefined
  const ask = async () => {
    if (document.visibilityState === 'visible')
      lock = await navigator.wakeLock?.request('screen').catch(() => undefined)
  }
  void ask()
  document.addEventListener('visibilitychange', ask)
  onScopeDispose(() => {
    document.removeEventListener('visibilitychange', ask)
    void lock?.release()
  })
}
