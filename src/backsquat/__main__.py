from backsquat.cli import run

run()
