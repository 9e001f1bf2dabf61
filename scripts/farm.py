#!/usr/bin/env python3
"""Runs a job array on a small Slurm of its own and kills nodes in the middle of it.

    scripts/farm.py TOOL [--kills N] [--frames N] [--seed N]

Starts munge, slurmctld and two slurmd as plain processes with sockets, keys and folders of their own
(slurm-wlm and munge have to be there), defocuses a 4K sequence by demo/farm/defocus.sbatch, and looks at
what is there in the end: every picture whole, equal to that of a run without Slurm, and none that was there
already made again. Ends with 1 where that is not so.
"""
import argparse
import getpass
import json
import os
import random
import shutil
import signal
import subprocess
import sys
import tempfile
import time
from pathlib import Path

HOME = Path(__file__).resolve().parent.parent
SHOT = """
[body]
gate = "24 x 13.5 mm"
pixels = "3840 x 2160"
[lens]
focal = "50 mm"
[lens.iris]
blades = 7
[take]
stop = "f/2"
iso = 800
shutter = "180 deg"
fps = 24
[frames]
first = 1001
last = LAST
[[pull]]
frame = 1001
at = "2 m"
[[pull]]
frame = LAST
at = "6 m"
"""


class Farm:
    """A Slurm of two nodes on this machine."""

    def __init__(self, folder):
        self.folder = folder
        self.running = {}
        for name in ("state", "spool1", "spool2"):
            (folder / name).mkdir()
        key = folder / "munge.key"
        key.write_bytes(os.urandom(1024))
        key.chmod(0o400)
        self.socket = folder / "munge.socket"
        user = getpass.getuser()
        host = subprocess.run(["hostname", "-s"], capture_output=True, text=True, check=True).stdout.strip()
        ports = [random.randrange(20000, 60000) for _ in range(2)]
        (folder / "slurm.conf").write_text(f"""
ClusterName=regatta
SlurmctldHost={host}(127.0.0.1)
SlurmUser={user}
SlurmdUser={user}
AuthType=auth/munge
AuthInfo=socket={self.socket}
CryptoType=crypto/munge
SlurmctldPort={ports[0]}
StateSaveLocation={folder}/state
SlurmdSpoolDir={folder}/spool%n
SlurmctldPidFile={folder}/slurmctld.pid
SlurmdPidFile={folder}/slurmd.%n.pid
SlurmctldLogFile={folder}/slurmctld.log
SlurmdLogFile={folder}/slurmd.%n.log
ProctrackType=proctrack/linuxproc
TaskPlugin=task/none
MpiDefault=none
ReturnToService=2
SlurmdTimeout=10
SchedulerType=sched/builtin
SelectType=select/linear
NodeName=n[1-2] NodeHostname={host} NodeAddr=127.0.0.1 Port=[{ports[1]}-{ports[1] + 1}] CPUs=1 State=UNKNOWN
PartitionName=all Nodes=n[1-2] Default=YES MaxTime=INFINITE State=UP
""")
        for i in (1, 2):
            (folder / f"spool{i}").rename(folder / f"spooln{i}")
        self.environment = dict(os.environ, SLURM_CONF=str(folder / "slurm.conf"))

    def start(self):
        self.spawn("munged", ["munged", "--foreground", "--force", f"--key-file={self.folder}/munge.key",
                              f"--socket={self.socket}", f"--pid-file={self.folder}/munged.pid",
                              f"--log-file={self.folder}/munged.log", f"--seed-file={self.folder}/munged.seed"])
        wait_for(self.socket.exists, 10, "munge does not start")
        self.spawn("slurmctld", ["slurmctld", "-D"])
        for node in ("n1", "n2"):
            self.start_node(node)
        wait_for(lambda: self.ask("sinfo", "-h", "-t", "idle", "-o", "%D").strip() == "2", 30,
                 "the nodes do not come up")

    def spawn(self, name, command):
        log = (self.folder / f"{name}.out").open("a")
        self.running[name] = subprocess.Popen(command, env=self.environment, stdout=log, stderr=log,
                                              start_new_session=True)

    def start_node(self, node):
        self.spawn(node, ["slurmd", "-D", "-N", node])

    def ask(self, *command):
        done = subprocess.run(command, env=self.environment, capture_output=True, text=True)
        return done.stdout

    def kill_node(self, node):
        """As a machine that loses its power: slurmd, its steps and what they run."""
        spool = str(self.folder / f"spool{node}")
        managers, others = [], []
        for entry in Path("/proc").iterdir():
            if not entry.name.isdigit():
                continue
            try:
                environment = (entry / "environ").read_bytes().split(b"\0")
                command = (entry / "cmdline").read_bytes()
            except OSError:
                continue
            if command.startswith(b"slurmstepd"):
                if spool.encode() in command or f"[{node}" in command.decode(errors="replace") or \
                        f"SLURMD_NODENAME={node}".encode() in environment:
                    managers.append(int(entry.name))
            elif f"SLURMD_NODENAME={node}".encode() in environment and \
                    f"SLURM_CONF={self.folder}/slurm.conf".encode() in environment:
                others.append(int(entry.name))
        # Who manages a step must not live to say that it failed: a machine without power says nothing.
        self.running[node].kill()
        parents = {int((Path("/proc") / str(p) / "stat").read_text().rsplit(")", 1)[1].split()[1])
                   for p in others if (Path("/proc") / str(p)).exists()}
        for parent in parents:
            try:
                if (Path("/proc") / str(parent) / "comm").read_text().startswith("slurmstepd"):
                    managers.append(parent)
            except OSError:
                pass
        for process in managers + others:
            try:
                os.kill(process, signal.SIGKILL)
            except ProcessLookupError:
                pass

    def stop(self):
        for process in self.running.values():
            process.terminate()
        for process in self.running.values():
            try:
                process.wait(5)
            except subprocess.TimeoutExpired:
                process.kill()


def wait_for(what, seconds, otherwise):
    end = time.monotonic() + seconds
    while time.monotonic() < end:
        if what():
            return
        time.sleep(0.2)
    raise SystemExit(f"farm: {otherwise}")


def make_input(tool, folder, frames):
    shot = folder / "show.shot.toml"
    shot.write_text(SHOT.replace("LAST", str(1000 + frames)))
    subprocess.run([tool, "trace", HOME / "demo/regatta/hero.shot.toml", "--set", "body.pixels=3840 x 2160",
                    "--pinhole", "--samples", "1", "-o", folder / "cg.1001.exr"], check=True,
                   stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
    for i in range(1, frames):
        os.link(folder / "cg.1001.exr", folder / f"cg.{1001 + i}.exr")
    return shot


def pictures(folder, name):
    return {p.name[len(name) + 1:]: p for p in folder.glob(f"{name}.*.exr")}


def run(farm, folder, shot, frames, kills, chance, failures):
    """One array, with nodes killed in the middle. @return seconds, kills made"""
    environment = dict(farm.environment, SHOT=str(shot), CG=str(folder / "cg.####.exr"),
                       FRAMES=f"1001-{1000 + frames}", OUT=str(folder / "out.####.exr"),
                       PATH=f"{folder}:{os.environ['PATH']}")
    began = time.monotonic()
    said = subprocess.run(["sbatch", "--parsable", HOME / "demo/farm/defocus.sbatch"], cwd=folder,
                          env=environment, capture_output=True, text=True)
    job = said.stdout.strip()
    if not job:
        raise SystemExit(f"farm: sbatch says {said.stderr}")
    killed = 0
    seen = {}  # picture → which file it is, once it was there
    next_kill = time.monotonic() + chance.uniform(1.0, 6.0)
    while farm.ask("squeue", "-h", "-j", job).strip():
        for name, path in pictures(folder, "out").items():
            which = path.stat().st_ino, path.stat().st_mtime_ns
            if seen.setdefault(name, which) != which:
                failures.append(f"{name} was made again")
                seen[name] = which
        if killed < kills and time.monotonic() > next_kill:
            node = chance.choice(["n1", "n2"])
            farm.kill_node(node)
            killed += 1
            farm.ask("scontrol", "update", f"NodeName={node}", "State=DOWN", "Reason=killed")
            farm.start_node(node)
            time.sleep(1.0)
            farm.ask("scontrol", "update", f"NodeName={node}", "State=RESUME")
            next_kill = time.monotonic() + chance.uniform(1.0, 6.0)
        for line in farm.ask("squeue", "-h", "-j", job, "-t", "PD", "-o", "%i %r").splitlines():
            if "BeginTime" in line:  # requeued: else it waits for two minutes
                farm.ask("scontrol", "update", f"JobId={line.split()[0]}", "StartTime=now")
        if time.monotonic() - began > 900:
            raise SystemExit("farm: the array does not end; " + farm.ask("squeue", "-j", job))
        time.sleep(0.1)
    return time.monotonic() - began, killed


def main():
    arguments = argparse.ArgumentParser()
    arguments.add_argument("tool")
    arguments.add_argument("--kills", type=int, default=1)
    arguments.add_argument("--frames", type=int, default=16)
    arguments.add_argument("--seed", type=int, default=1)
    asked = arguments.parse_args()
    tool = Path(asked.tool).resolve()
    for needed in ("munged", "slurmctld", "slurmd", "sbatch"):
        if not shutil.which(needed):
            raise SystemExit(f"farm: there is no {needed}; install slurm-wlm and munge")
    chance = random.Random(asked.seed)
    folder = Path(tempfile.mkdtemp(prefix="jolly_iris_farm_"))
    os.symlink(tool, folder / "jolly-iris")
    failures = []
    farm = None
    try:
        shot = make_input(tool, folder, asked.frames)
        began = time.monotonic()
        subprocess.run([tool, "defocus", shot, folder / "cg.####.exr", "--frames", f"1001-{1000 + asked.frames}",
                        "-o", folder / "one.####.exr"], check=True, stdout=subprocess.DEVNULL,
                       stderr=subprocess.DEVNULL)
        alone = time.monotonic() - began
        (folder / "slurm").mkdir()
        farm = Farm(folder / "slurm")
        farm.start()
        kills = 0
        rounds = 0
        quiet = None
        while kills < asked.kills or quiet is None:
            for path in pictures(folder, "out").values():
                path.unlink()
            wanted = 0 if quiet is None else min(3, asked.kills - kills)
            seconds, killed = run(farm, folder, shot, asked.frames, wanted, chance, failures)
            if quiet is None:
                quiet = seconds
            kills += killed
            rounds += 1
            one, out = pictures(folder, "one"), pictures(folder, "out")
            for name in one:
                if name not in out:
                    failures.append(f"{name} is missing")
                elif one[name].read_bytes() != out[name].read_bytes():
                    failures.append(f"{name} is another than without Slurm")
            for left in folder.glob(".jolly-iris-*"):
                if killed == 0:
                    failures.append(f"{left.name} was left")
                left.unlink()
            print(f"round {rounds}: {killed} kills, {len(out)} pictures, {seconds:.0f} s", flush=True)
        told = [(folder / f"defocus.{i}.json").read_text() for i in range(1, 9)]
        if not all(told) or any(json.loads(t)["failed"] for t in told):
            failures.append("tasks tell of frames that failed")
        print(f"{asked.frames} frames of 4K: {alone:.1f} s alone, {quiet:.1f} s as 8 tasks on two nodes "
              f"of one core: {(quiet - alone) / 8:.1f} s a task more; {kills} kills in {rounds - 1} rounds, "
              f"{len(failures)} failures")
    finally:
        if farm:
            farm.stop()
        if not os.environ.get("FARM_KEEP"):
            shutil.rmtree(folder, ignore_errors=True)
    for failure in failures:
        print(failure)
    sys.exit(1 if failures else 0)


main()
