package org.holtra.standins.network;

import java.nio.ByteBuffer;
import org.holtra.standins.weather.Weather;

/** The bytes that the simulated devices send, each model in its own way. */
final class Payloads {

    private static final double MILLIMETRES_A_TIP = 0.2;
    private static final int ABSENT = 0x7fff;

    private Payloads() {}

    /** Port 2: air and wet-bulb in hundredths of a degree, humidity in halves of a per cent, leaf wetness, battery. */
    static byte[] station(Weather.At at, int battery) {
        return ByteBuffer.allocate(7)
                .putShort((short) Math.round(at.air() * 100))
                .putShort((short) Math.round(at.wetBulb() * 100))
                .put((byte) Math.round(at.humidity() * 2))
                .put((byte) (at.rain() > 0 || at.humidity() > 92 ? 14 : 0))
                .put((byte) battery)
                .array();
    }

    /** Port 3: tips of the bucket since it was put in place, battery. */
    static byte[] gauge(double millimetres, int battery) {
        return ByteBuffer.allocate(5)
                .putInt((int) Math.floor(millimetres / MILLIMETRES_A_TIP))
                .put((byte) battery)
                .array();
    }

    /**
     * Port 4: for each of three depths, moisture in tenths of a per cent and temperature in tenths of a degree, then the
     * battery.
     *
     * @param broken whether the deepest sensor gives nothing
     */
    static byte[] probe(Weather.At at, double wet, int battery, boolean broken) {
        ByteBuffer bytes = ByteBuffer.allocate(13);
        for (int depth = 0; depth < 3; depth++) {
            double share = 1 - depth * 0.3;
            bytes.putShort((short) Math.round((22 + wet * 12 * share + depth * 3) * 10));
            bytes.putShort((short)
                    (broken && depth == 2 ? ABSENT : Math.round((9 + (at.air() - 9) * share * 0.4) * 10)));
        }
        return bytes.put((byte) battery).array();
    }
}
