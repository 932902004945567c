package org.holtra.service.lookouts;

import java.util.LinkedHashMap;
import java.util.Map;

/** What a message of an alarm tells. */
public final class AlarmWords {

    private AlarmWords() {}

    /**
     * @param told what its watch tells: {@code state}, {@code text}, {@code since}, {@code at} and, where there is any,
     *     {@code value}, {@code extreme}, {@code extremeAt} and {@code cause}
     */
    public static Map<String, Object> data(Alarm alarm, Map<String, Object> told) {
        Map<String, Object> data = new LinkedHashMap<>();
        data.put("alarm", alarm.lookout());
        data.put("id", alarm.id().toString());
        data.put("name", subject(alarm));
        if (alarm.device() != null) {
            data.put("device", alarm.device());
        }
        if (alarm.point() != null) {
            data.put("point", alarm.point());
        }
        data.putAll(told);
        data.put("text", alarm.lookout() + ": " + subject(alarm) + ": " + told.get("text"));
        return data;
    }

    /** What it is about. */
    private static String subject(Alarm alarm) {
        String of = alarm.device() == null ? alarm.key() : alarm.device();
        return alarm.point() == null ? of : of + ", " + alarm.point();
    }
}
