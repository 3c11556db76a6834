"""Figures as SVG: bands, outlines, the artists' circle, copies of photographs."""
