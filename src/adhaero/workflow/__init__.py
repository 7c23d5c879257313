"""What users do, one module a stage: loads from store, asks core, saves. One transaction an action; no SQL, no HTTP."""
