"""Loads against limits: component loads, ceilings, verdict, circuits. This face says what other rooms may use."""

from .circuits import Circuit, Fault, circuits, faults
from .verdict import (
    AIR_TOLERANCE,
    POWER_LIMITS,
    Component,
    DutyVerdict,
    Load,
    Status,
    circuit_load,
    judge,
    judge_all,
    overrun_bypass_m3_s,
    suction_heads_kpa,
    worst,
)

__all__ = [
    "AIR_TOLERANCE",
    "POWER_LIMITS",
    "Circuit",
    "Component",
    "DutyVerdict",
    "Fault",
    "Load",
    "Status",
    "circuit_load",
    "circuits",
    "faults",
    "judge",
    "judge_all",
    "overrun_bypass_m3_s",
    "suction_heads_kpa",
    "worst",
]
