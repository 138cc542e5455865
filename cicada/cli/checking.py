"""``cicada check``."""

import argparse
import json

import msgspec

from cicada.cli.output import give
from cicada.cli.rendering import own_sources
from cicada.core.checks import check, overs, unmeasured
from cicada.core.mix import Mixer
from cicada.core.model import Run
from cicada.core.planner import plan
from cicada.core.silent import muted
from cicada.deliver.levels import measure
from cicada.deliver.unheard import unheard_sounds
from cicada.disk.paths import is_file, real_file
from cicada.errors import BadProject
from cicada.store.projectfile import load
from cicada.store.sounds_folder import sound_files

# Seconds of a mix that are looked through for how loud it gets; of more it is said that it is not.
MEASURED = 3 * 3600


def print_findings(options: argparse.Namespace) -> int:
    """List what looks wrong; 1 if anything is an error."""
    file = real_file(options.file, BadProject)
    project = load(file)
    files = sound_files(project, file)
    missing = [
        sound.id
        for sound in project.sounds
        # What is made here can be made again.
        if sound.making is None and (sound.id not in files or not is_file(files[sound.id]))
    ]
    sources = own_sources(project, file)
    silent = muted(project)
    planned = plan(project, Run())
    unheard = unheard_sounds(planned, project, sources, silent)
    findings = check(project, missing, planned, unheard)
    if planned.length > MEASURED * project.rate:
        findings.append(unmeasured(planned.length / project.rate))
    else:
        levels = measure(Mixer(planned, project, sources, silent))
        if levels.first_over is not None:
            findings.append(overs(levels.over, levels.first_over, levels.peak_db, project.rate))
    if options.json:
        give(json.dumps(msgspec.to_builtins(findings), indent=1))
    else:
        lines = [f"{finding.severity}: {finding.sentence}" for finding in findings]
        give("\n".join(lines or ["nothing looks wrong"]))
    return int(any(finding.severity == "error" for finding in findings))
