"""Where the air inside comes to rest when all goes on as it is: the end of what the equations carry on in time."""

from kegcart.core.simulation.inputs import Fan, Surroundings

HALVINGS = 60
HOTTEST_RISE_K = 2000.0


def at_rest(around: Surroundings, watts: float, sun_w: float, inverting: bool = True) -> tuple[float, bool]:
    """The temperature in °C at which the air inside rests, and whether a thermostat switches a fan on and off there.

    watts: of everything inside, banks too, as all their heat passes through the air. sun_w: what the sun brings in through the top as
    in still air. Where a fan switches, the air stands between its two temperatures: the upper one is told.
    Source: as much goes out as comes in; equations of `carry_heat`.
    """
    running = {n for n, fan in enumerate(around.fans) if fan.starts == "always" or (fan.starts == "inverter" and inverting)}
    waiting = {n for n, fan in enumerate(around.fans) if fan.starts == "thermostat"}
    while True:
        celsius = balance(around, watts, sun_w, [around.fans[n] for n in running])
        begins = {n for n in waiting if celsius >= around.fans[n].on_c}
        if not begins:
            return celsius, False
        cooler = balance(around, watts, sun_w, [around.fans[n] for n in running | begins])
        cycling = [n for n in begins if cooler <= around.fans[n].off_c]
        if cycling:
            return min(around.fans[n].on_c for n in cycling), True
        running, waiting = running | begins, waiting - begins


def balance(around: Surroundings, watts: float, sun_w: float, running: list[Fan]) -> float:
    """Where the air rests with some fans running, °C; found by halving."""
    ways = [sum(fan.w_k for fan in running if fan.outward is out) for out in (True, False)]
    walls = (around.stirred_w_k or around.walls_w_k) if running else around.walls_w_k
    comes, low, high = watts + sun_w * walls / around.walls_w_k, 0.0, HOTTEST_RISE_K
    for _ in range(HALVINGS):
        rise = (low + high) / 2
        carried = max(ways) or around.draught_w * rise**0.5
        if (walls + carried) * rise < comes:
            low = rise
        else:
            high = rise
    return around.outside_c + (low + high) / 2
