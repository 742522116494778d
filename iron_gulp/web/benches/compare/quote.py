"""A quote: what is bought, fitted and tuned, at the shop's rates with its markup and tax, line by line."""

from dataclasses import dataclass

from iron_gulp.core.plan import Bill

CENT = 2


@dataclass(frozen=True)
class QuoteLine:
    """A line: what, how much of it, its price each and in all as words; generic ones are marked."""

    what: str
    count: str
    each: str
    price: str
    generic: bool


def exact(amount: float, bill: Bill) -> str:
    """An amount to the cent: a quote is no estimate of its own sum."""
    return f"{amount:,.{CENT}f}\u00a0{bill.rates.currency}".replace(",", "\u202f")


def quote_lines(bill: Bill) -> list[QuoteLine]:
    """Parts with the shop's markup."""
    lines = []
    for row, each in zip(bill.rows, bill.marked_up, strict=True):
        told = "not known" if each is None else exact(each, bill)
        price = "not known" if each is None else exact(each * row.count, bill)
        lines.append(QuoteLine(row.what, f"{row.count:g}", told, price, row.generic))
    return lines


def quote_sums(bill: Bill) -> list[tuple[str, str]]:
    """What stands under the lines, down to the sum."""
    rates = bill.rates
    return [
        (f"Fittings, seals and small parts, {rates.fittings_pct:g} % of the parts", exact(bill.marked_fittings, bill)),
        (f"Fitting, {bill.hours:g} h at {exact(rates.labour, bill)}", exact(bill.labour, bill)),
        (f"Calibration, {bill.calibration_h:g} h at {exact(rates.calibration, bill)}", exact(bill.calibration, bill)),
        (f"Tax, {rates.tax_pct:g} %", exact(bill.tax, bill)),
        ("In all", exact(bill.quoted, bill)),
    ]
