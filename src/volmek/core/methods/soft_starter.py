"""Soft starter with bypass: the current held at its limit, the torque falls with its square."""

from collections.abc import Callable

from volmek.core.devices.part import IN_THE_LINE, LINE, ContactorPart
from volmek.core.devices.soft_starter import DEFAULT_CURRENT_LIMIT, select_soft_starter
from volmek.core.document.model import StarterDocument
from volmek.core.methods.method import Extra, Layout, Method, three_phase_only
from volmek.core.physics.run_up import Stage
from volmek.core.plate.plate import Plate

BYPASS = ContactorPart(
    "bypass_contactor",
    "K2",
    "Bypass contactor",
    why="after the ramp it carries the line current",
    branch=True,
    start_share=0.0,
    stage_shares=(0.0,),
)


def _share(document: StarterDocument, inrush_ratio: float) -> float:
    return min((document.starter.current_limit_ratio or DEFAULT_CURRENT_LIMIT) / inrush_ratio, 1.0)


def _stages(document: StarterDocument) -> Callable[[Plate], tuple[Stage, ...]]:
    ratio = document.starter.current_limit_ratio or DEFAULT_CURRENT_LIMIT
    return lambda plate: (Stage("at the current limit", current_limit_a=ratio * plate.design.number),)


METHOD = Method(
    label="Soft starter with bypass",
    cost="Current held at its limit, torque falls with its square; electronics.",
    leads=3,
    roles=("line_contactor", "bypass_contactor", "soft_starter"),
    refuses=three_phase_only,
    layout=lambda document: Layout(
        (LINE, BYPASS), (IN_THE_LINE,), (Extra("line", select_soft_starter),), stages=_stages(document)
    ),
    line_current_share=_share,
    torque_share=lambda document, inrush_ratio: _share(document, inrush_ratio) ** 2,
)
