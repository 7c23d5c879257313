"""The load rig as a device: its line protocol, the reader, and the simulated stand-in that ships."""
