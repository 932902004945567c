package org.holtra.standins.weather;

import java.time.Duration;
import java.time.Instant;
import java.time.LocalTime;

/**
 * The weather over the cooperative's orchards: clear, still nights that fall below freezing before dawn, mild days, a
 * shower in some afternoons. It is a pure function of time and place, so that all devices of a place agree.
 *
 * @param epoch the real time at which the weather's day stood at {@code start}
 * @param start what the weather's clock said then
 * @param speed how many weather hours pass in a real hour
 */
public record Weather(Instant epoch, LocalTime start, double speed) {

    private static final double DAY_HOURS = 24;
    private static final double COLDEST_HOUR = 5.5;

    /** What the weather is at one place, in degrees Celsius, percent, metres a second and millimetres an hour. */
    public record At(double air, double wetBulb, double humidity, double wind, double rain) {}

    /** Hours since midnight of the weather's first day. */
    public double hours(Instant now) {
        double real = Duration.between(epoch, now).toMillis() / 3_600_000.0;
        return start.toSecondOfDay() / 3_600.0 + real * speed;
    }

    /** The time of day by the weather's clock. */
    public LocalTime clock(Instant now) {
        return LocalTime.ofSecondOfDay((long) (hours(now) % DAY_HOURS * 3_600));
    }

    /** @param altitude in metres; cold air runs down into the low rows at night */
    public At at(Instant now, double altitude) {
        double hours = hours(now);
        double hour = hours % DAY_HOURS;
        long day = (long) (hours / DAY_HOURS);
        double warmth = -Math.cos((hour - COLDEST_HOUR) / DAY_HOURS * 2 * Math.PI);
        double night = Math.max(0, -warmth);
        double mean = 6.2 + 1.5 * noise(day, 11);
        double hollow = (120 - altitude) / 40 * night * 1.6;
        double air = mean + 6.4 * warmth - hollow + 0.5 * noise((long) (hours * 6), (long) altitude);
        boolean showers = noise(day, 5) > 0.1 && hour > 13 && hour < 18;
        double rain = showers ? Math.max(0, 4 + 5 * noise((long) (hours * 4), 3)) : 0;
        double humidity = Math.clamp(68 - 22 * warmth + (rain > 0 ? 20 : 0) + 4 * noise((long) (hours * 5), 7), 25, 99);
        double wind = Math.max(
                0.2, 1.2 + 3.5 * Math.max(0, warmth) + 1.5 * noise((long) (hours * 8), 2) + (rain > 0 ? 5 : 0));
        return new At(air, wetBulb(air, humidity), humidity, wind, rain);
    }

    /**
     * The wet-bulb temperature by Stull's approximation (Journal of Applied Meteorology and Climatology 50, 2011), good to
     * about 0.3 degrees at sea-level pressure.
     */
    static double wetBulb(double air, double humidity) {
        return air * Math.atan(0.151977 * Math.sqrt(humidity + 8.313659))
                + Math.atan(air + humidity)
                - Math.atan(humidity - 1.676331)
                + 0.00391838 * Math.pow(humidity, 1.5) * Math.atan(0.023101 * humidity)
                - 4.686035;
    }

    /** A number from -1 to 1 that depends on its arguments and on nothing else. */
    private static double noise(long step, long seed) {
        long x = step * 0x9E3779B97F4A7C15L + seed * 0xC2B2AE3D27D4EB4FL;
        x ^= x >>> 31;
        x *= 0xBF58476D1CE4E5B9L;
        x ^= x >>> 29;
        return (x >>> 11) / (double) (1L << 52) - 1;
    }
}
