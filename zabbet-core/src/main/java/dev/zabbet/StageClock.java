package dev.zabbet;

import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.time.ZoneId;
import java.time.ZoneOffset;
import java.util.Objects;
import java.util.concurrent.atomic.AtomicReference;

/** A clock that stands still until it is moved. */
final class StageClock extends Clock {
    private final AtomicReference<Instant> now;
    private final ZoneId zone;

    StageClock(Instant start) {
        this(new AtomicReference<>(start), ZoneOffset.UTC);
    }

    private StageClock(AtomicReference<Instant> now, ZoneId zone) {
        this.now = now;
        this.zone = zone;
    }

    void set(Instant instant) {
        now.set(instant);
    }

    void advance(Duration by) {
        now.updateAndGet(instant -> instant.plus(by));
    }

    @Override
    public Instant instant() {
        return Objects.requireNonNull(now.get());
    }

    @Override
    public ZoneId getZone() {
        return zone;
    }

    @Override
    public Clock withZone(ZoneId other) {
        return new StageClock(now, other);
    }
}
