.DEFAULT_GOAL := help
PY := .venv/bin/python
# One more than there are cores, five at most: what waits for a browser or a database leaves room.
WORKERS := $(shell n=$$(nproc); [ $$n -gt 4 ] && n=4; echo $$((n + 1)))
export PATH := $(PATH):$(CURDIR)/.venv/node/bin

.PHONY: help
help: ## this list
	@grep -hE '^[a-z-]+:.*## ' $(MAKEFILE_LIST) | sed -E 's/^([a-z-]+):.*## /\1|/' | awk -F'|' '{printf "  make %-12s %s\n", $$1, $$2}'
	@echo; echo "Settings from the environment:"; python3 -B tools/settings.py

.PHONY: setup
setup: ## set up what is missing (Debian packages, Python, Node, front end)
	@tools/setup.sh run

.PHONY: demo
demo: setup ## set up, load the demo school, serve it; Ctrl-C stops everything
	@exec $(PY) -m wolfsbane.server.run.launch --demo

.PHONY: serve
serve: setup ## the same without demo data
	@exec $(PY) -m wolfsbane.server.run.launch

.PHONY: rig
rig: setup ## two simulated rigs that speak Modbus TCP on ports 5020 and 5021; RIG="--help" says what else
	@exec $(PY) -m wolfsbane.server.rigs.simulated $(RIG)

.PHONY: school
school: setup ## found a school with its first instructor, also while the server runs
	@exec $(PY) -m wolfsbane.server.run.founding

.PHONY: account
account: setup ## the way back in: ACCOUNT="code LOGIN" prints a one-time code; list, log-out
	@exec $(PY) -m wolfsbane.server.run.accounts $(or $(ACCOUNT),list)

.PHONY: backup
backup: setup ## a verified backup of everything into var/backups, old ones thrown out by rule; BACKUP=list or check
	@exec $(PY) -m wolfsbane.server.run.backups $(or $(BACKUP),make)

.PHONY: restore
restore: setup ## bring FILE= (a backup) into the empty database the settings name
	@exec $(PY) -m wolfsbane.server.run.backups restore $(FILE)

.PHONY: upgrade
upgrade: setup ## back up, then bring the database up to date
	@exec $(PY) -m wolfsbane.server.run.backups upgrade

.PHONY: test
test: ## set up, check and run every test: Python, front end, browser
	@tools/setup.sh test
	@$(MAKE) --no-print-directory -j2 --output-sync=target warm check-web check-python web-test
	$(PY) -m pytest -n $(WORKERS) --dist loadscope

.PHONY: warm
warm:
	$(PY) -m wolfsbane.server.run.warm

.PHONY: web-test
web-test:
	cd web && npm run --silent test

.PHONY: quick
quick: ## the core and the front end, without database and browser: while working
	@tools/setup.sh test
	@$(MAKE) --no-print-directory web-test
	$(PY) -m pytest -n $(WORKERS) --dist loadscope -m "not slow and not bench" tests/cycle tests/diagnosis tests/exercise tests/acting tests/tuning tests/test_*.py

.PHONY: coverage
coverage: ## every Python test with the lines it reaches; the report is var/coverage/index.html
	@tools/setup.sh test
	$(PY) -m pytest -n $(WORKERS) --dist loadscope --cov=wolfsbane --cov-report=term:skip-covered --cov-report=html:var/coverage

.PHONY: check
check: ## format, lint and types, without running a test
	@tools/setup.sh test
	@$(MAKE) --no-print-directory check-only

.PHONY: check-only
check-only: check-python check-web

.PHONY: check-python
check-python:
	$(PY) -m ruff format --check -q src tests tools
	$(PY) -m ruff check -q src tests tools
	$(PY) -m mypy

.PHONY: check-web
check-web:
	cd web && npm run --silent check

.PHONY: bench
bench: ## speed of solver, proof and generator, as ratios in one run
	@tools/setup.sh test
	@.venv/bin/wolfsbane bench
	$(PY) -m pytest -m bench

.PHONY: starter
starter: ## prove the starter library again and say what no longer makes a fair call
	@tools/setup.sh types
	$(PY) tools/starter.py

.PHONY: types
types: ## write the API's description and the client types made from it
	@tools/setup.sh types
	$(PY) -m wolfsbane.server.openapi > web/openapi.json
	cd web && npm run --silent types

.PHONY: validate
validate: ## measure the model again and write the numbers into docs/validation.md
	@tools/setup.sh test
	$(PY) tools/validate.py

.PHONY: diagnosis
diagnosis: ## measure the diagnosis again and write docs/diagnosis.md and its picture
	@tools/setup.sh test
	$(PY) tools/diagnosis_report.py

.PHONY: marking
marking: ## write docs/marking.md from the worked cases of the tests
	@tools/setup.sh test
	$(PY) tools/marking_table.py

.PHONY: fairness
fairness: ## measure what is issued from outside and write docs/fairness.md (about an hour)
	@tools/setup.sh test
	$(PY) tools/fairness_report.py

.PHONY: rigs
rigs: ## calibrate twenty simulated rigs and write docs/rigs.md (some minutes)
	@tools/setup.sh test
	$(PY) tools/rigs_report.py

.PHONY: labs
labs: ## play the worked lab sessions and write docs/lab-sessions.md (a minute)
	@tools/setup.sh test
	$(PY) -m wolfsbane.devtools.lab_report

.PHONY: chart
chart: ## what two faults do to one another, and what each can be on each machine, known beforehand (ten minutes)
	@tools/setup.sh test
	$(PY) tools/planning_chart.py

.PHONY: formats
formats: ## write the JSON Schemas in docs/formats/ from the code
	@tools/setup.sh test
	$(PY) tools/formats.py

.PHONY: screenshots
screenshots: ## take docs/screenshots/ again, while make demo runs
	@tools/setup.sh test
	$(PY) tools/screenshots.py

ATTACKS := tests/server/test_front.py tests/server/test_budgets.py tests/server/test_accounts.py tests/server/test_security.py \
	tests/server/test_roles.py tests/server/test_fuzz.py tests/server/test_watching.py tests/server/test_exchange.py \
	tests/server/test_slow_work.py tests/browser/test_hands.py

.PHONY: attack
attack: ## slow clients, lock-outs, guessing, bombs, drawn requests, other roles and schools, what a browser keeps: on loopback
	@tools/setup.sh test
	$(PY) -m pytest -n 2 --dist loadscope -rA $(ATTACKS) | grep -E "^(PASSED|FAILED|ERROR)|passed|failed" | sed -E 's/^PASSED [^:]*:://; s/_/ /g'

.PHONY: robots
robots: ## four robots play calls on screen: what each way earns, into docs/marking.md
	@tools/setup.sh test
	$(PY) tools/screen_report.py --write

.PHONY: paths
paths: ## twelve worked ways through calls on screen, with their marks, into docs/screen-paths.md
	@tools/setup.sh test
	$(PY) tools/screen_paths.py

.PHONY: load
load: ## a college's afternoon on two hosts of this machine: how fast, who works how much, into docs/operations.md
	@tools/setup.sh test
	$(PY) tools/load.py --write

.PHONY: figures
figures: ## hostile clients, long work and growth measured again, beside what they were, into docs/before-and-after.md
	@tools/setup.sh test
	$(PY) tools/before_after.py

.PHONY: trial
trial: ## kill every process in turn and bring a backup back: seconds without an answer, writes lost, into docs/operations.md
	@tools/setup.sh test
	$(PY) tools/trial.py --write

.PHONY: growth
growth: ## measure how time and memory of a class set grow with its calls
	@tools/setup.sh test
	$(PY) tools/growth.py

.PHONY: slider
slider: ## measure in the browser how soon the bench answers a slider
	@tools/setup.sh test
	$(PY) tools/slider_latency.py

.PHONY: tables
tables: ## build the property tables again (development only)
	@tools/setup.sh test
	$(PY) tools/build_tables.py

.PHONY: clean
clean: ## forget everything that was set up or loaded here
	rm -rf .venv web/node_modules web/dist var
