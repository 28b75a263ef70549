"""From the words of a formula to its tree."""

from hourglass.cohort.formula.tokens import KEYWORDS, FormulaError, Token, tokens
from hourglass.cohort.formula.tree import ColumnName, Literal, Operation, Tree

DEEPEST = 60
COMPARISONS = ("=", "≠", "<", "≤", ">", "≥")
FUNCTIONS: dict[str, tuple[int, int]] = {
    "min": (2, 20), "max": (2, 20), "abs": (1, 1), "log": (1, 1), "exp": (1, 1), "sqrt": (1, 1),
    "round": (1, 2), "floor": (1, 1), "year": (1, 1), "month": (1, 1), "date": (1, 1),
}  # fmt: skip
"""Functions, with the fewest and the most values each takes."""


def parse(formula: str) -> Tree:
    """Parse a formula.

    Raises:
        FormulaError: pointing at the word that does not fit.
    """
    reader = _Reader(tokens(formula))
    tree = reader.choice()
    rest = reader.now
    if rest.kind != "end":
        raise FormulaError(f"“{rest.text}” is not expected here", rest.start, rest.end)
    return tree


class _Reader:
    """Reads tokens from left to right, one rule a method."""

    def __init__(self, words: list[Token]) -> None:
        self._words, self._at, self._depth = words, 0, 0

    @property
    def now(self) -> Token:
        return self._words[self._at]

    def _take(self) -> Token:
        token = self.now
        self._at += 1
        return token

    def _is(self, *text: str) -> bool:
        return self.now.kind in ("word", "mark") and self.now.text.lower() in text

    def _expect(self, text: str, why: str) -> Token:
        if not self._is(text):
            raise FormulaError(f"“{text}” is expected here{why}", self.now.start, self.now.end)
        return self._take()

    def choice(self) -> Tree:
        self._depth += 1
        if self._depth > DEEPEST:
            raise FormulaError("The formula is nested too deeply", self.now.start, self.now.end)
        try:
            if not self._is("if"):
                return self._either()
            start = self._take().start
            test = self.choice()
            self._expect("then", " after the condition of “if”")
            yes = self.choice()
            self._expect("else", ": state what holds otherwise")
            no = self.choice()
            return Operation("if", (test, yes, no), start, no.end)
        finally:
            self._depth -= 1

    def _either(self) -> Tree:
        left = self._both()
        while self._is("or"):
            self._take()
            right = self._both()
            left = Operation("or", (left, right), left.start, right.end)
        return left

    def _both(self) -> Tree:
        left = self._negation()
        while self._is("and"):
            self._take()
            right = self._negation()
            left = Operation("and", (left, right), left.start, right.end)
        return left

    def _negation(self) -> Tree:
        nots = []
        while self._is("not"):
            nots.append(self._take())
        tree = self._comparison()
        for token in reversed(nots):
            tree = Operation("not", (tree,), token.start, tree.end)
        return tree

    def _comparison(self) -> Tree:
        left = self._sum()
        if self._is(*COMPARISONS):
            mark = self._take().text
            right = self._sum()
            if self._is(*COMPARISONS):
                raise FormulaError(
                    "Two comparisons in a row: join them with “and”", self.now.start, self.now.end
                )
            return Operation(mark, (left, right), left.start, right.end)
        if self._is("is"):
            self._take()
            negated = self._is("not") and bool(self._take())
            if not self._is("missing", "present"):
                raise FormulaError(
                    "“missing” or “present” is expected here", self.now.start, self.now.end
                )
            word = self._take()
            missing = (word.text.lower() == "missing") != negated
            return Operation("missing" if missing else "present", (left,), left.start, word.end)
        if self._is("in"):
            self._take()
            values, end = self._list()
            return Operation("in", (left, *values), left.start, end)
        return left

    def _sum(self) -> Tree:
        left = self._product()
        while self._is("+", "-"):
            mark = self._take().text
            right = self._product()
            left = Operation(mark, (left, right), left.start, right.end)
        return left

    def _product(self) -> Tree:
        left = self._signed()
        while self._is("*", "/"):
            mark = self._take().text
            right = self._signed()
            left = Operation(mark, (left, right), left.start, right.end)
        return left

    def _signed(self) -> Tree:
        signs = []
        while self._is("-", "+"):
            signs.append(self._take())
        tree = self._power()
        for token in reversed(signs):
            if token.text == "-":
                tree = Operation("minus", (tree,), token.start, tree.end)
        return tree

    def _power(self) -> Tree:
        base = self._atom()
        if not self._is("^"):
            return base
        self._take()
        negative = self._is("-") and bool(self._take())
        exponent = self._atom()
        if negative:
            exponent = Operation("minus", (exponent,), exponent.start - 1, exponent.end)
        if self._is("^"):
            raise FormulaError("Two powers in a row: use brackets", self.now.start, self.now.end)
        return Operation("^", (base, exponent), base.start, exponent.end)

    def _atom(self) -> Tree:
        token = self.now
        word = token.text.lower()
        if token.kind == "number":
            self._take()
            return Literal(float(token.text), token.start, token.end)
        if token.kind == "text":
            self._take()
            return Literal(token.text, token.start, token.end)
        if token.kind == "column":
            self._take()
            return ColumnName(token.text, token.start, token.end)
        if self._is("("):
            self._take()
            inner = self.choice()
            self._expect(")", ": a bracket is still open")
            return inner
        if token.kind == "word" and word == "missing":
            self._take()
            return Literal(None, token.start, token.end)
        if token.kind == "word" and word not in KEYWORDS:
            self._take()
            if self._is("("):
                return self._call(token)
            return ColumnName(token.text, token.start, token.end)
        what = (
            "The formula ends too early"
            if token.kind == "end"
            else f"“{token.text}” is not expected here"
        )
        raise FormulaError(
            f"{what}: a number, a text in quotation marks or a column is", token.start, token.end
        )

    def _call(self, token: Token) -> Tree:
        name = token.text.lower()
        if name not in FUNCTIONS:
            known = ", ".join(sorted(FUNCTIONS))
            raise FormulaError(
                f"There is no function “{token.text}”; there are {known}", token.start, token.end
            )
        values, end = self._list()
        fewest, most = FUNCTIONS[name]
        if not fewest <= len(values) <= most:
            wanted = f"{fewest}" if fewest == most else f"{fewest} to {most}"
            raise FormulaError(
                f"{name} takes {wanted} {'value' if wanted == '1' else 'values'}, not {len(values)}",
                token.start,
                end,
            )
        return Operation(name, values, token.start, end)

    def _list(self) -> tuple[tuple[Tree, ...], int]:
        self._expect("(", "")
        values = [self.choice()]
        while self._is(","):
            self._take()
            values.append(self.choice())
        return tuple(values), self._expect(")", ": a bracket is still open").end
