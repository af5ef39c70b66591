/** A short tone for a limit that is passed; nothing where a browser has no sound or nobody has touched the page yet. */
export function beep(): void {
  try {
    const audio = new AudioContext()
    const tone = audio.createOscillator()
    const gain = audio.createGain()
    tone.type = 'square'
    tone.frequency.value = 880
    gain.gain.setValueAtTime(0.08, audio.currentTime)
    gain.gain.exponentialRampToValueAtTime(0.0001, audio.currentTime + 0.5)
    tone.connect(gain).connect(audio.destination)
    tone.start()
    tone.stop(audio.currentTime + 0.5)
    tone.onended = () => void audio.close()
  } catch {
    // no sound here
  }
}
