"""Standing cautions, shown where the step can hurt."""

ISOLATE = "Isolate, lock off, and prove dead on a tester that you have just proved, before touching anything."
NEVER_PUSH = "Never push a contactor in by hand on a live panel."
COMPETENT = "Only a competent, authorised person does this work."
LOCAL_CODE = "The local code and the makers' instructions override everything on this sheet."
COMPUTED = (
    "These figures were computed by stated rules from what was typed in; a person licensed for this work checks and "
    "answers for them."
)

SETTINGS = (ISOLATE, NEVER_PUSH, COMPETENT, LOCAL_CODE, COMPUTED)
