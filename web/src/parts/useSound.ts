/** Whether this device may ring: asked once and kept on it; and the tone itself. */
import { useEffect, useSyncExternalStore } from "react";

const KEY = "adhaero.sound";
const listeners = new Set<() => void>();

const subscribe = (listener: () => void) => {
  listeners.add(listener);
  return () => listeners.delete(listener);
};

/** True or false as it was said on this device, null while nobody was asked. */
function read(): boolean | null {
  const kept = localStorage.getItem(KEY);
  return kept === null ? null : kept === "on";
}

export function useSound(): [boolean | null, (on: boolean) => void] {
  const on = useSyncExternalStore(subscribe, read);
  return [
    on,
    (next) => {
      localStorage.setItem(KEY, next ? "on" : "off");
      listeners.forEach((l) => l());
    },
  ];
}

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
