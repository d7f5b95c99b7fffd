"""Instruments that are asked over a line of text, a socket or a serial port: found, asked over and over, told what to do. No Django here."""
