package dev.zabbet.examples.spring;

import java.math.BigDecimal;
import org.springframework.stereotype.Service;
import org.springframework.transaction.annotation.Transactional;

/** Books and cancels stays. */
@Service
public class FrontDesk {
    private static final BigDecimal A_NIGHT = new BigDecimal("40.00");

    private final Huts huts;
    private final Stays stays;
    private final Refunds refunds;

    /** A desk over these. */
    public FrontDesk(Huts huts, Stays stays, Refunds refunds) {
        this.huts = huts;
        this.stays = stays;
        this.refunds = refunds;
    }

    /**
     * Books some nights.
     *
     * @param hut the hut's key
     */
    @Transactional
    public Stay book(long hut, String guest, int nights) {
        return stays.save(
                new Stay(huts.getReferenceById(hut), guest, nights, A_NIGHT.multiply(BigDecimal.valueOf(nights))));
    }

    /**
     * Cancels a stay; the guest gets the price back.
     *
     * @param stay its key
     */
    @Transactional
    public void cancel(long stay) {
        Stay cancelled = stays.findById(stay).orElseThrow();
        cancelled.cancel();
        refunds.save(new Refund(cancelled, cancelled.getPrice()));
    }
}
