"""Instruments: a client for meters that speak SCPI over TCP, and simulated ones that ship with the program."""
