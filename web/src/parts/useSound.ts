/** Whether this device may ring: asked once and kept on it; and the tone itself. */
import { useEffect } from "react";
import { useDevice } from "./useDevice";

export const useSound = () => useDevice("sound");

/** A tone every two seconds while ``on``. */
export function useBeep(on: boolean): void {
  useEffect(() => {
    if (!on) return;
    const audio = new AudioContext();
    const beep = () => {
      const tone = audio.createOscillator();
      const volume = audio.createGain();
      volume.gain.value = 0.15;
      tone.frequency.value = 880;
      tone.connect(volume).connect(audio.destination);
      tone.start();
      tone.stop(audio.currentTime + 0.25);
    };
    beep();
    const timer = setInterval(beep, 2000);
    return () => {
      clearInterval(timer);
      void audio.close();
    };
  }, [on]);
}
