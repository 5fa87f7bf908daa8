BEGIN TRANSACTION;
CREATE TABLE act (
	id INTEGER NOT NULL, 
	motor_id INTEGER NOT NULL, 
	at VARCHAR NOT NULL, 
	kind VARCHAR NOT NULL, 
	words VARCHAR NOT NULL, 
	inverse JSON NOT NULL, 
	undone BOOLEAN NOT NULL, 
	CONSTRAINT pk_act PRIMARY KEY (id), 
	CONSTRAINT fk_act_motor_id_motor FOREIGN KEY(motor_id) REFERENCES motor (id)
);
INSERT INTO "act" VALUES(1,1,'2026-07-14T14:00:00.000000+00:00','open','check opened','{"do": [{"op": "delete", "table": "bench_check", "ids": [1]}]}',0);
INSERT INTO "act" VALUES(2,1,'2026-07-14T14:00:00.000000+00:00','set up','rig and warmth noted','{"do": [{"op": "set", "table": "bench_check", "id": 1, "values": {"rig": "", "method": "", "motor_c": null, "ambient_c": null, "timing_set_deg": null}}]}',0);
INSERT INTO "act" VALUES(3,1,'2026-07-14T14:00:00.000000+00:00','take','look and turn taken','{"do": [{"op": "delete", "table": "finding", "ids": [1]}, {"op": "delete", "table": "finding", "ids": [2]}, {"op": "delete", "table": "finding", "ids": [3]}, {"op": "draft", "key": "check:1:look", "fields": {"shaft": "ok", "bearings": "ok", "bearings_note": ""}}]}',0);
INSERT INTO "act" VALUES(4,1,'2026-07-14T14:01:00.000000+00:00','take','gap taken','{"do": [{"op": "delete", "table": "reading", "ids": [4, 2, 1, 3]}, {"op": "draft", "key": "check:1:gap", "fields": {"gaps": "0.60 0.61 0.60 0.59", "angles": "0 90 180 270"}}]}',0);
INSERT INTO "act" VALUES(5,1,'2026-07-14T14:02:00.000000+00:00','take','detent taken','{"do": [{"op": "delete", "table": "reading", "ids": [7, 8, 10, 5, 6, 9]}, {"op": "delete", "table": "finding", "ids": [4]}, {"op": "draft", "key": "check:1:detent", "fields": {"unit": "g on the lever", "lever_mm": "30", "peaks": "62.5 63 62 62.8 62.2 63.1"}}]}',0);
INSERT INTO "act" VALUES(6,1,'2026-07-14T14:03:00.000000+00:00','take','sensors taken','{"do": [{"op": "delete", "table": "finding", "ids": [5]}, {"op": "draft", "key": "check:1:sensors", "fields": {"states": "101 100 110 010 011 001", "turned": "clockwise"}}]}',0);
INSERT INTO "act" VALUES(7,1,'2026-07-14T14:04:00.000000+00:00','take','first spin taken','{"do": [{"op": "delete", "table": "reading", "ids": [11]}, {"op": "delete", "table": "finding", "ids": [6]}, {"op": "draft", "key": "check:1:first_spin", "fields": {"heard": "smooth", "rpm": "3150"}}]}',0);
INSERT INTO "act" VALUES(8,1,'2026-07-14T14:05:00.000000+00:00','take','full throttle, run 1 taken','{"do": [{"op": "delete", "table": "reading", "ids": [12, 14, 15, 13]}, {"op": "draft", "key": "check:1:pull", "fields": {"volts": "3.7", "amps": "1.1", "rpm": "12600", "p2p": "30", "step": "4"}}]}',0);
INSERT INTO "act" VALUES(9,1,'2026-07-14T14:06:00.000000+00:00','take','full throttle, run 2 taken','{"do": [{"op": "delete", "table": "reading", "ids": [16, 19, 18, 17]}, {"op": "draft", "key": "check:1:pull", "fields": {"volts": "7.4", "amps": "2.20", "rpm": "25160", "p2p": "50", "step": "8"}}]}',0);
INSERT INTO "act" VALUES(10,1,'2026-07-14T14:07:00.000000+00:00','take','full throttle, run 3 taken','{"do": [{"op": "delete", "table": "reading", "ids": [23, 20, 21, 22]}, {"op": "draft", "key": "check:1:pull", "fields": {"volts": "7.4", "amps": "2.21", "rpm": "25150", "p2p": "50", "step": "8"}}]}',0);
INSERT INTO "act" VALUES(11,1,'2026-07-14T14:08:00.000000+00:00','take','timing, run 1 taken','{"do": [{"op": "delete", "table": "reading", "ids": [25, 26, 24]}, {"op": "delete", "table": "finding", "ids": [7]}, {"op": "draft", "key": "check:1:timing", "fields": {"a": "27.8", "b": "28.4", "c": "28.1", "sweep": "evenly"}}]}',0);
INSERT INTO "act" VALUES(12,1,'2026-07-14T14:09:00.000000+00:00','take','timing, run 2 taken','{"do": [{"op": "delete", "table": "reading", "ids": [29, 27, 28]}, {"op": "draft", "key": "check:1:timing", "fields": {"a": "27.8", "b": "28.4", "c": "28.1", "sweep": "evenly"}}]}',0);
INSERT INTO "act" VALUES(13,1,'2026-07-14T14:10:00.000000+00:00','take','noise taken','{"do": [{"op": "delete", "table": "reading", "ids": [32, 30, 31, 33]}, {"op": "draft", "key": "check:1:noise", "fields": {"background": "58", "step_one": "63", "half": "73", "full": "81", "placement": "stand", "distance_cm": "10"}}]}',0);
INSERT INTO "act" VALUES(14,1,'2026-07-14T14:12:00.000000+00:00','take','heat taken','{"do": [{"op": "delete", "table": "reading", "ids": [34]}, {"op": "draft", "key": "check:1:heat", "fields": {"surface_c": "44", "ambient_c": "22"}}]}',0);
INSERT INTO "act" VALUES(15,1,'2026-07-14T14:17:00.000000+00:00','take','heat taken','{"do": [{"op": "delete", "table": "reading", "ids": [35]}, {"op": "delete", "table": "finding", "ids": [8]}, {"op": "draft", "key": "check:1:heat", "fields": {"surface_c": "36", "ambient_c": "22", "compare_c": "30"}}]}',0);
INSERT INTO "act" VALUES(16,1,'2026-07-14T14:20:00.000000+00:00','take','set timing taken','{"do": [{"op": "delete", "table": "reading", "ids": [36, 37]}, {"op": "delete", "table": "finding", "ids": [9]}, {"op": "delete", "table": "finding", "ids": [10]}, {"op": "delete", "table": "finding", "ids": [11]}, {"op": "draft", "key": "check:1:set_timing", "fields": {"setting": "20", "amps": "2.2", "rpm": "25100", "target": "3", "tolerance": "0.05", "resolution": "1"}}]}',0);
INSERT INTO "act" VALUES(17,1,'2026-07-14T14:22:00.000000+00:00','take','load run taken','{"do": [{"op": "delete", "table": "reading", "ids": [38, 39, 41, 40, 42]}, {"op": "draft", "key": "check:1:load", "fields": {"what": "two-blade 42", "rest_v": "7.9", "load_v": "7.1", "amps": "31", "watts": "220", "thrust_g": "900"}}]}',0);
INSERT INTO "act" VALUES(18,1,'2026-07-14T14:24:00.000000+00:00','take','flywheel taken','{"do": [{"op": "delete", "table": "reading", "ids": [44, 43]}, {"op": "delete", "table": "finding", "ids": [12]}, {"op": "draft", "key": "check:1:flywheel", "fields": {"trace": "0.0,0.0\n0.1,60.0\n0.2,120.0\n0.3,180.0\n0.4,240.0\n0.5,300.0\n0.6,360.0\n0.7,420.0\n0.8,480.0\n0.9,540.0\n1.0,600.0\n1.1,660.0\n1.2,720.0\n1.3,780.0\n1.4,840.0\n1.5,900.0\n1.6,960.0\n1.7,1020.0\n1.8,1080.0\n1.9,1140.0\n2.0,1200.0", "inertia": "0.0002", "at_rpm": "600"}}]}',0);
INSERT INTO "act" VALUES(19,1,'2026-07-14T14:30:00.000000+00:00','sign','keep signed by Ines','{"do": [{"op": "delete", "table": "signed_verdict", "ids": [1]}, {"op": "set", "table": "bench_check", "id": 1, "values": {"open": true}}]}',0);
INSERT INTO "act" VALUES(20,1,'2026-07-28T14:00:00.000000+00:00','open','check opened','{"do": [{"op": "delete", "table": "bench_check", "ids": [2]}]}',0);
INSERT INTO "act" VALUES(21,1,'2026-07-28T14:00:00.000000+00:00','set up','rig and warmth noted','{"do": [{"op": "set", "table": "bench_check", "id": 2, "values": {"rig": "", "method": "", "motor_c": null, "ambient_c": null, "timing_set_deg": null}}]}',0);
INSERT INTO "act" VALUES(22,1,'2026-07-28T14:00:00.000000+00:00','take','look and turn taken','{"do": [{"op": "delete", "table": "finding", "ids": [13]}, {"op": "delete", "table": "finding", "ids": [14]}, {"op": "delete", "table": "finding", "ids": [15]}, {"op": "draft", "key": "check:2:look", "fields": {"shaft": "ok", "bearings": "ok", "bearings_note": ""}}]}',0);
INSERT INTO "act" VALUES(23,1,'2026-07-28T14:01:00.000000+00:00','take','gap taken','{"do": [{"op": "delete", "table": "reading", "ids": [48, 46, 45, 47]}, {"op": "draft", "key": "check:2:gap", "fields": {"gaps": "0.60 0.61 0.60 0.59", "angles": "0 90 180 270"}}]}',0);
INSERT INTO "act" VALUES(24,1,'2026-07-28T14:02:00.000000+00:00','take','detent taken','{"do": [{"op": "delete", "table": "reading", "ids": [51, 50, 53, 54, 49, 52]}, {"op": "delete", "table": "finding", "ids": [16]}, {"op": "draft", "key": "check:2:detent", "fields": {"unit": "g on the lever", "lever_mm": "30", "peaks": "62.5 63 62 62.8 62.2 63.1"}}]}',0);
INSERT INTO "act" VALUES(25,1,'2026-07-28T14:03:00.000000+00:00','take','sensors taken','{"do": [{"op": "delete", "table": "finding", "ids": [17]}, {"op": "draft", "key": "check:2:sensors", "fields": {"states": "101 100 110 010 011 001", "turned": "clockwise"}}]}',0);
INSERT INTO "act" VALUES(26,1,'2026-07-28T14:04:00.000000+00:00','take','first spin taken','{"do": [{"op": "delete", "table": "reading", "ids": [55]}, {"op": "delete", "table": "finding", "ids": [18]}, {"op": "draft", "key": "check:2:first_spin", "fields": {"heard": "smooth", "rpm": "3150"}}]}',0);
INSERT INTO "act" VALUES(27,1,'2026-07-28T14:05:00.000000+00:00','take','full throttle, run 1 taken','{"do": [{"op": "delete", "table": "reading", "ids": [57, 56, 58, 59]}, {"op": "draft", "key": "check:2:pull", "fields": {"volts": "3.7", "amps": "1.1", "rpm": "12600", "p2p": "30", "step": "4"}}]}',0);
INSERT INTO "act" VALUES(28,1,'2026-07-28T14:06:00.000000+00:00','take','full throttle, run 2 taken','{"do": [{"op": "delete", "table": "reading", "ids": [62, 61, 63, 60]}, {"op": "draft", "key": "check:2:pull", "fields": {"volts": "7.4", "amps": "2.20", "rpm": "25160", "p2p": "50", "step": "8"}}]}',0);
INSERT INTO "act" VALUES(29,1,'2026-07-28T14:07:00.000000+00:00','take','full throttle, run 3 taken','{"do": [{"op": "delete", "table": "reading", "ids": [65, 64, 67, 66]}, {"op": "draft", "key": "check:2:pull", "fields": {"volts": "7.4", "amps": "2.21", "rpm": "25150", "p2p": "50", "step": "8"}}]}',0);
INSERT INTO "act" VALUES(30,1,'2026-07-28T14:08:00.000000+00:00','take','timing, run 1 taken','{"do": [{"op": "delete", "table": "reading", "ids": [69, 68, 70]}, {"op": "delete", "table": "finding", "ids": [19]}, {"op": "draft", "key": "check:2:timing", "fields": {"a": "27.8", "b": "28.4", "c": "28.1", "sweep": "evenly"}}]}',0);
INSERT INTO "act" VALUES(31,1,'2026-07-28T14:09:00.000000+00:00','take','timing, run 2 taken','{"do": [{"op": "delete", "table": "reading", "ids": [71, 73, 72]}, {"op": "draft", "key": "check:2:timing", "fields": {"a": "27.8", "b": "28.4", "c": "28.1", "sweep": "evenly"}}]}',0);
INSERT INTO "act" VALUES(32,1,'2026-07-28T14:10:00.000000+00:00','take','noise taken','{"do": [{"op": "delete", "table": "reading", "ids": [77, 74, 75, 76]}, {"op": "draft", "key": "check:2:noise", "fields": {"background": "58", "step_one": "63", "half": "73", "full": "81", "placement": "stand", "distance_cm": "10"}}]}',0);
INSERT INTO "act" VALUES(33,1,'2026-07-28T14:12:00.000000+00:00','take','heat taken','{"do": [{"op": "delete", "table": "reading", "ids": [78]}, {"op": "draft", "key": "check:2:heat", "fields": {"surface_c": "44", "ambient_c": "22"}}]}',0);
INSERT INTO "act" VALUES(34,1,'2026-07-28T14:17:00.000000+00:00','take','heat taken','{"do": [{"op": "delete", "table": "reading", "ids": [79]}, {"op": "delete", "table": "finding", "ids": [20]}, {"op": "draft", "key": "check:2:heat", "fields": {"surface_c": "36", "ambient_c": "22", "compare_c": "30"}}]}',0);
INSERT INTO "act" VALUES(35,1,'2026-07-28T14:20:00.000000+00:00','take','set timing taken','{"do": [{"op": "delete", "table": "reading", "ids": [81, 80]}, {"op": "delete", "table": "finding", "ids": [21]}, {"op": "delete", "table": "finding", "ids": [22]}, {"op": "delete", "table": "finding", "ids": [23]}, {"op": "draft", "key": "check:2:set_timing", "fields": {"setting": "20", "amps": "2.2", "rpm": "25100", "target": "3", "tolerance": "0.05", "resolution": "1"}}]}',0);
INSERT INTO "act" VALUES(36,1,'2026-07-28T14:22:00.000000+00:00','take','load run taken','{"do": [{"op": "delete", "table": "reading", "ids": [82, 83, 85, 86, 84]}, {"op": "draft", "key": "check:2:load", "fields": {"what": "two-blade 42", "rest_v": "7.9", "load_v": "7.1", "amps": "31", "watts": "220", "thrust_g": "900"}}]}',0);
INSERT INTO "act" VALUES(37,1,'2026-07-28T14:24:00.000000+00:00','take','flywheel taken','{"do": [{"op": "delete", "table": "reading", "ids": [87, 88]}, {"op": "delete", "table": "finding", "ids": [24]}, {"op": "draft", "key": "check:2:flywheel", "fields": {"trace": "0.0,0.0\n0.1,60.0\n0.2,120.0\n0.3,180.0\n0.4,240.0\n0.5,300.0\n0.6,360.0\n0.7,420.0\n0.8,480.0\n0.9,540.0\n1.0,600.0\n1.1,660.0\n1.2,720.0\n1.3,780.0\n1.4,840.0\n1.5,900.0\n1.6,960.0\n1.7,1020.0\n1.8,1080.0\n1.9,1140.0\n2.0,1200.0", "inertia": "0.0002", "at_rpm": "600"}}]}',0);
INSERT INTO "act" VALUES(38,1,'2026-07-28T14:30:00.000000+00:00','sign','keep signed by Ines','{"do": [{"op": "delete", "table": "signed_verdict", "ids": [2]}, {"op": "set", "table": "bench_check", "id": 2, "values": {"open": true}}]}',0);
INSERT INTO "act" VALUES(39,2,'2026-07-14T14:00:00.000000+00:00','open','check opened','{"do": [{"op": "delete", "table": "bench_check", "ids": [3]}]}',0);
INSERT INTO "act" VALUES(40,2,'2026-07-14T14:00:00.000000+00:00','set up','rig and warmth noted','{"do": [{"op": "set", "table": "bench_check", "id": 3, "values": {"rig": "", "method": "", "motor_c": null, "ambient_c": null, "timing_set_deg": null}}]}',0);
INSERT INTO "act" VALUES(41,2,'2026-07-14T14:00:00.000000+00:00','take','look and turn taken','{"do": [{"op": "delete", "table": "finding", "ids": [25]}, {"op": "delete", "table": "finding", "ids": [26]}, {"op": "delete", "table": "finding", "ids": [27]}, {"op": "draft", "key": "check:3:look", "fields": {"shaft": "ok", "bearings": "ok", "bearings_note": ""}}]}',0);
INSERT INTO "act" VALUES(42,2,'2026-07-14T14:01:00.000000+00:00','take','gap taken','{"do": [{"op": "delete", "table": "reading", "ids": [92, 90, 89, 91]}, {"op": "draft", "key": "check:3:gap", "fields": {"gaps": "0.60 0.61 0.60 0.59", "angles": "0 90 180 270"}}]}',0);
INSERT INTO "act" VALUES(43,2,'2026-07-14T14:02:00.000000+00:00','take','detent taken','{"do": [{"op": "delete", "table": "reading", "ids": [95, 96, 98, 93, 94, 97]}, {"op": "delete", "table": "finding", "ids": [28]}, {"op": "draft", "key": "check:3:detent", "fields": {"unit": "g on the lever", "lever_mm": "30", "peaks": "62.5 63 62 62.8 62.2 63.1"}}]}',0);
INSERT INTO "act" VALUES(44,2,'2026-07-14T14:03:00.000000+00:00','take','sensors taken','{"do": [{"op": "delete", "table": "finding", "ids": [29]}, {"op": "draft", "key": "check:3:sensors", "fields": {"states": "101 100 110 010 011 001", "turned": "clockwise"}}]}',0);
INSERT INTO "act" VALUES(45,2,'2026-07-14T14:04:00.000000+00:00','take','first spin taken','{"do": [{"op": "delete", "table": "reading", "ids": [99]}, {"op": "delete", "table": "finding", "ids": [30]}, {"op": "draft", "key": "check:3:first_spin", "fields": {"heard": "smooth", "rpm": "3150"}}]}',0);
INSERT INTO "act" VALUES(46,2,'2026-07-14T14:05:00.000000+00:00','take','full throttle, run 1 taken','{"do": [{"op": "delete", "table": "reading", "ids": [100, 102, 103, 101]}, {"op": "draft", "key": "check:3:pull", "fields": {"volts": "3.7", "amps": "1.1", "rpm": "12600", "p2p": "30", "step": "4"}}]}',0);
INSERT INTO "act" VALUES(47,2,'2026-07-14T14:06:00.000000+00:00','take','full throttle, run 2 taken','{"do": [{"op": "delete", "table": "reading", "ids": [104, 107, 106, 105]}, {"op": "draft", "key": "check:3:pull", "fields": {"volts": "7.4", "amps": "2.20", "rpm": "25160", "p2p": "50", "step": "8"}}]}',0);
INSERT INTO "act" VALUES(48,2,'2026-07-14T14:07:00.000000+00:00','take','full throttle, run 3 taken','{"do": [{"op": "delete", "table": "reading", "ids": [111, 108, 109, 110]}, {"op": "draft", "key": "check:3:pull", "fields": {"volts": "7.4", "amps": "2.21", "rpm": "25150", "p2p": "50", "step": "8"}}]}',0);
INSERT INTO "act" VALUES(49,2,'2026-07-14T14:08:00.000000+00:00','take','timing, run 1 taken','{"do": [{"op": "delete", "table": "reading", "ids": [113, 114, 112]}, {"op": "delete", "table": "finding", "ids": [31]}, {"op": "draft", "key": "check:3:timing", "fields": {"a": "27.8", "b": "28.4", "c": "28.1", "sweep": "evenly"}}]}',0);
INSERT INTO "act" VALUES(50,2,'2026-07-14T14:09:00.000000+00:00','take','timing, run 2 taken','{"do": [{"op": "delete", "table": "reading", "ids": [117, 115, 116]}, {"op": "draft", "key": "check:3:timing", "fields": {"a": "27.8", "b": "28.4", "c": "28.1", "sweep": "evenly"}}]}',0);
INSERT INTO "act" VALUES(51,2,'2026-07-14T14:10:00.000000+00:00','take','noise taken','{"do": [{"op": "delete", "table": "reading", "ids": [120, 118, 119, 121]}, {"op": "draft", "key": "check:3:noise", "fields": {"background": "58", "step_one": "63", "half": "73", "full": "81", "placement": "stand", "distance_cm": "10"}}]}',0);
INSERT INTO "act" VALUES(52,2,'2026-07-14T14:12:00.000000+00:00','take','heat taken','{"do": [{"op": "delete", "table": "reading", "ids": [122]}, {"op": "draft", "key": "check:3:heat", "fields": {"surface_c": "44", "ambient_c": "22"}}]}',0);
INSERT INTO "act" VALUES(53,2,'2026-07-14T14:17:00.000000+00:00','take','heat taken','{"do": [{"op": "delete", "table": "reading", "ids": [123]}, {"op": "delete", "table": "finding", "ids": [32]}, {"op": "draft", "key": "check:3:heat", "fields": {"surface_c": "36", "ambient_c": "22", "compare_c": "30"}}]}',0);
INSERT INTO "act" VALUES(54,2,'2026-07-14T14:20:00.000000+00:00','take','set timing taken','{"do": [{"op": "delete", "table": "reading", "ids": [124, 125]}, {"op": "delete", "table": "finding", "ids": [33]}, {"op": "delete", "table": "finding", "ids": [34]}, {"op": "delete", "table": "finding", "ids": [35]}, {"op": "draft", "key": "check:3:set_timing", "fields": {"setting": "20", "amps": "2.2", "rpm": "25100", "target": "3", "tolerance": "0.05", "resolution": "1"}}]}',0);
INSERT INTO "act" VALUES(55,2,'2026-07-14T14:22:00.000000+00:00','take','load run taken','{"do": [{"op": "delete", "table": "reading", "ids": [126, 127, 129, 128, 130]}, {"op": "draft", "key": "check:3:load", "fields": {"what": "two-blade 42", "rest_v": "7.9", "load_v": "7.1", "amps": "31", "watts": "220", "thrust_g": "900"}}]}',0);
INSERT INTO "act" VALUES(56,2,'2026-07-14T14:24:00.000000+00:00','take','flywheel taken','{"do": [{"op": "delete", "table": "reading", "ids": [132, 131]}, {"op": "delete", "table": "finding", "ids": [36]}, {"op": "draft", "key": "check:3:flywheel", "fields": {"trace": "0.0,0.0\n0.1,60.0\n0.2,120.0\n0.3,180.0\n0.4,240.0\n0.5,300.0\n0.6,360.0\n0.7,420.0\n0.8,480.0\n0.9,540.0\n1.0,600.0\n1.1,660.0\n1.2,720.0\n1.3,780.0\n1.4,840.0\n1.5,900.0\n1.6,960.0\n1.7,1020.0\n1.8,1080.0\n1.9,1140.0\n2.0,1200.0", "inertia": "0.0002", "at_rpm": "600"}}]}',0);
INSERT INTO "act" VALUES(57,2,'2026-07-14T14:30:00.000000+00:00','sign','keep signed by Ines','{"do": [{"op": "delete", "table": "signed_verdict", "ids": [3]}, {"op": "set", "table": "bench_check", "id": 3, "values": {"open": true}}]}',0);
INSERT INTO "act" VALUES(58,2,'2026-07-28T14:00:00.000000+00:00','open','check opened','{"do": [{"op": "delete", "table": "bench_check", "ids": [4]}]}',0);
INSERT INTO "act" VALUES(59,2,'2026-07-28T14:00:00.000000+00:00','set up','rig and warmth noted','{"do": [{"op": "set", "table": "bench_check", "id": 4, "values": {"rig": "", "method": "", "motor_c": null, "ambient_c": null, "timing_set_deg": null}}]}',0);
INSERT INTO "act" VALUES(60,2,'2026-07-28T14:00:00.000000+00:00','take','look and turn taken','{"do": [{"op": "delete", "table": "finding", "ids": [37]}, {"op": "delete", "table": "finding", "ids": [38]}, {"op": "delete", "table": "finding", "ids": [39]}, {"op": "draft", "key": "check:4:look", "fields": {"shaft": "ok", "bearings": "ok", "bearings_note": ""}}]}',0);
INSERT INTO "act" VALUES(61,2,'2026-07-28T14:01:00.000000+00:00','take','gap taken','{"do": [{"op": "delete", "table": "reading", "ids": [136, 134, 133, 135]}, {"op": "draft", "key": "check:4:gap", "fields": {"gaps": "0.60 0.61 0.60 0.59", "angles": "0 90 180 270"}}]}',0);
INSERT INTO "act" VALUES(62,2,'2026-07-28T14:02:00.000000+00:00','take','detent taken','{"do": [{"op": "delete", "table": "reading", "ids": [139, 138, 141, 142, 137, 140]}, {"op": "delete", "table": "finding", "ids": [40]}, {"op": "draft", "key": "check:4:detent", "fields": {"unit": "g on the lever", "lever_mm": "30", "peaks": "62.5 63 62 62.8 62.2 63.1"}}]}',0);
INSERT INTO "act" VALUES(63,2,'2026-07-28T14:03:00.000000+00:00','take','sensors taken','{"do": [{"op": "delete", "table": "finding", "ids": [41]}, {"op": "draft", "key": "check:4:sensors", "fields": {"states": "101 100 110 010 011 001", "turned": "clockwise"}}]}',0);
INSERT INTO "act" VALUES(64,2,'2026-07-28T14:04:00.000000+00:00','take','first spin taken','{"do": [{"op": "delete", "table": "reading", "ids": [143]}, {"op": "delete", "table": "finding", "ids": [42]}, {"op": "draft", "key": "check:4:first_spin", "fields": {"heard": "smooth", "rpm": "3150"}}]}',0);
INSERT INTO "act" VALUES(65,2,'2026-07-28T14:05:00.000000+00:00','take','full throttle, run 1 taken','{"do": [{"op": "delete", "table": "reading", "ids": [145, 144, 146, 147]}, {"op": "draft", "key": "check:4:pull", "fields": {"volts": "3.7", "amps": "1.1", "rpm": "12600", "p2p": "30", "step": "4"}}]}',0);
INSERT INTO "act" VALUES(66,2,'2026-07-28T14:06:00.000000+00:00','take','full throttle, run 2 taken','{"do": [{"op": "delete", "table": "reading", "ids": [150, 149, 151, 148]}, {"op": "draft", "key": "check:4:pull", "fields": {"volts": "7.4", "amps": "2.20", "rpm": "25160", "p2p": "50", "step": "8"}}]}',0);
INSERT INTO "act" VALUES(67,2,'2026-07-28T14:07:00.000000+00:00','take','full throttle, run 3 taken','{"do": [{"op": "delete", "table": "reading", "ids": [153, 152, 155, 154]}, {"op": "draft", "key": "check:4:pull", "fields": {"volts": "7.4", "amps": "2.21", "rpm": "25150", "p2p": "50", "step": "8"}}]}',0);
INSERT INTO "act" VALUES(68,2,'2026-07-28T14:08:00.000000+00:00','take','timing, run 1 taken','{"do": [{"op": "delete", "table": "reading", "ids": [157, 156, 158]}, {"op": "delete", "table": "finding", "ids": [43]}, {"op": "draft", "key": "check:4:timing", "fields": {"a": "27.8", "b": "28.4", "c": "28.1", "sweep": "evenly"}}]}',0);
INSERT INTO "act" VALUES(69,2,'2026-07-28T14:09:00.000000+00:00','take','timing, run 2 taken','{"do": [{"op": "delete", "table": "reading", "ids": [159, 161, 160]}, {"op": "draft", "key": "check:4:timing", "fields": {"a": "27.8", "b": "28.4", "c": "28.1", "sweep": "evenly"}}]}',0);
INSERT INTO "act" VALUES(70,2,'2026-07-28T14:10:00.000000+00:00','take','noise taken','{"do": [{"op": "delete", "table": "reading", "ids": [165, 162, 163, 164]}, {"op": "draft", "key": "check:4:noise", "fields": {"background": "58", "step_one": "63", "half": "73", "full": "81", "placement": "stand", "distance_cm": "10"}}]}',0);
INSERT INTO "act" VALUES(71,2,'2026-07-28T14:12:00.000000+00:00','take','heat taken','{"do": [{"op": "delete", "table": "reading", "ids": [166]}, {"op": "draft", "key": "check:4:heat", "fields": {"surface_c": "44", "ambient_c": "22"}}]}',0);
INSERT INTO "act" VALUES(72,2,'2026-07-28T14:17:00.000000+00:00','take','heat taken','{"do": [{"op": "delete", "table": "reading", "ids": [167]}, {"op": "delete", "table": "finding", "ids": [44]}, {"op": "draft", "key": "check:4:heat", "fields": {"surface_c": "36", "ambient_c": "22", "compare_c": "30"}}]}',0);
INSERT INTO "act" VALUES(73,2,'2026-07-28T14:20:00.000000+00:00','take','set timing taken','{"do": [{"op": "delete", "table": "reading", "ids": [169, 168]}, {"op": "delete", "table": "finding", "ids": [45]}, {"op": "delete", "table": "finding", "ids": [46]}, {"op": "delete", "table": "finding", "ids": [47]}, {"op": "draft", "key": "check:4:set_timing", "fields": {"setting": "20", "amps": "2.2", "rpm": "25100", "target": "3", "tolerance": "0.05", "resolution": "1"}}]}',0);
INSERT INTO "act" VALUES(74,2,'2026-07-28T14:22:00.000000+00:00','take','load run taken','{"do": [{"op": "delete", "table": "reading", "ids": [170, 171, 173, 174, 172]}, {"op": "draft", "key": "check:4:load", "fields": {"what": "two-blade 42", "rest_v": "7.9", "load_v": "7.1", "amps": "31", "watts": "220", "thrust_g": "900"}}]}',0);
INSERT INTO "act" VALUES(75,2,'2026-07-28T14:24:00.000000+00:00','take','flywheel taken','{"do": [{"op": "delete", "table": "reading", "ids": [175, 176]}, {"op": "delete", "table": "finding", "ids": [48]}, {"op": "draft", "key": "check:4:flywheel", "fields": {"trace": "0.0,0.0\n0.1,60.0\n0.2,120.0\n0.3,180.0\n0.4,240.0\n0.5,300.0\n0.6,360.0\n0.7,420.0\n0.8,480.0\n0.9,540.0\n1.0,600.0\n1.1,660.0\n1.2,720.0\n1.3,780.0\n1.4,840.0\n1.5,900.0\n1.6,960.0\n1.7,1020.0\n1.8,1080.0\n1.9,1140.0\n2.0,1200.0", "inertia": "0.0002", "at_rpm": "600"}}]}',0);
INSERT INTO "act" VALUES(76,2,'2026-07-28T14:30:00.000000+00:00','sign','keep signed by Ines','{"do": [{"op": "delete", "table": "signed_verdict", "ids": [4]}, {"op": "set", "table": "bench_check", "id": 4, "values": {"open": true}}]}',0);
INSERT INTO "act" VALUES(77,2,'2026-09-12T14:00:00.000000+00:00','event','dunked logged','{"do": [{"op": "delete", "table": "event", "ids": [1]}]}',0);
INSERT INTO "act" VALUES(78,2,'2026-09-12T14:00:00.000000+00:00','event','run logged','{"do": [{"op": "delete", "table": "event", "ids": [2]}]}',0);
INSERT INTO "act" VALUES(79,2,'2026-09-07T14:00:00.000000+00:00','open','check opened','{"do": [{"op": "delete", "table": "bench_check", "ids": [5]}]}',0);
INSERT INTO "act" VALUES(80,2,'2026-09-07T14:00:00.000000+00:00','set up','rig and warmth noted','{"do": [{"op": "set", "table": "bench_check", "id": 5, "values": {"rig": "", "method": "", "motor_c": null, "ambient_c": null, "timing_set_deg": null}}]}',0);
INSERT INTO "act" VALUES(81,2,'2026-09-07T14:00:00.000000+00:00','take','look and turn taken','{"do": [{"op": "delete", "table": "finding", "ids": [49]}, {"op": "delete", "table": "finding", "ids": [50]}, {"op": "delete", "table": "finding", "ids": [51]}, {"op": "draft", "key": "check:5:look", "fields": {"shaft": "ok", "bearings": "doubt", "bearings_note": "gritty"}}]}',0);
INSERT INTO "act" VALUES(82,2,'2026-09-07T14:01:00.000000+00:00','take','gap taken','{"do": [{"op": "delete", "table": "reading", "ids": [178, 179, 180, 177]}, {"op": "draft", "key": "check:5:gap", "fields": {"gaps": "0.60 0.61 0.60 0.59", "angles": "0 90 180 270"}}]}',0);
INSERT INTO "act" VALUES(83,2,'2026-09-07T14:02:00.000000+00:00','take','detent taken','{"do": [{"op": "delete", "table": "reading", "ids": [185, 186, 181, 182, 183, 184]}, {"op": "delete", "table": "finding", "ids": [52]}, {"op": "draft", "key": "check:5:detent", "fields": {"unit": "g on the lever", "lever_mm": "30", "peaks": "62.5 63 62 62.8 62.2 63.1"}}]}',0);
INSERT INTO "act" VALUES(84,2,'2026-09-07T14:03:00.000000+00:00','take','sensors taken','{"do": [{"op": "delete", "table": "finding", "ids": [53]}, {"op": "draft", "key": "check:5:sensors", "fields": {"states": "101 100 110 010 011 001", "turned": "clockwise"}}]}',0);
INSERT INTO "act" VALUES(85,2,'2026-09-07T14:04:00.000000+00:00','take','first spin taken','{"do": [{"op": "delete", "table": "reading", "ids": [187]}, {"op": "delete", "table": "finding", "ids": [54]}, {"op": "draft", "key": "check:5:first_spin", "fields": {"heard": "smooth", "rpm": "3150"}}]}',0);
INSERT INTO "act" VALUES(86,2,'2026-09-07T14:05:00.000000+00:00','take','full throttle, run 1 taken','{"do": [{"op": "delete", "table": "reading", "ids": [188, 189, 191, 190]}, {"op": "draft", "key": "check:5:pull", "fields": {"volts": "3.7", "amps": "1.1", "rpm": "12600", "p2p": "30", "step": "4"}}]}',0);
INSERT INTO "act" VALUES(87,2,'2026-09-07T14:06:00.000000+00:00','take','full throttle, run 2 taken','{"do": [{"op": "delete", "table": "reading", "ids": [194, 195, 192, 193]}, {"op": "draft", "key": "check:5:pull", "fields": {"volts": "7.4", "amps": "3.08", "rpm": "25160", "p2p": "300", "step": "8"}}]}',0);
INSERT INTO "act" VALUES(88,2,'2026-09-07T14:07:00.000000+00:00','take','full throttle, run 3 taken','{"do": [{"op": "delete", "table": "reading", "ids": [198, 197, 196, 199]}, {"op": "draft", "key": "check:5:pull", "fields": {"volts": "7.4", "amps": "3.09", "rpm": "25150", "p2p": "300", "step": "8"}}]}',0);
INSERT INTO "act" VALUES(89,2,'2026-09-07T14:08:00.000000+00:00','take','timing, run 1 taken','{"do": [{"op": "delete", "table": "reading", "ids": [201, 202, 200]}, {"op": "delete", "table": "finding", "ids": [55]}, {"op": "draft", "key": "check:5:timing", "fields": {"a": "27.8", "b": "28.4", "c": "28.1", "sweep": "evenly"}}]}',0);
INSERT INTO "act" VALUES(90,2,'2026-09-07T14:09:00.000000+00:00','take','timing, run 2 taken','{"do": [{"op": "delete", "table": "reading", "ids": [203, 204, 205]}, {"op": "draft", "key": "check:5:timing", "fields": {"a": "27.8", "b": "28.4", "c": "28.1", "sweep": "evenly"}}]}',0);
INSERT INTO "act" VALUES(91,2,'2026-09-07T14:10:00.000000+00:00','take','noise taken','{"do": [{"op": "delete", "table": "reading", "ids": [208, 209, 206, 207]}, {"op": "draft", "key": "check:5:noise", "fields": {"background": "58", "step_one": "70", "half": "80", "full": "89", "placement": "stand", "distance_cm": "10"}}]}',0);
INSERT INTO "act" VALUES(92,2,'2026-09-07T14:12:00.000000+00:00','take','heat taken','{"do": [{"op": "delete", "table": "reading", "ids": [210]}, {"op": "draft", "key": "check:5:heat", "fields": {"surface_c": "53", "ambient_c": "22"}}]}',0);
INSERT INTO "act" VALUES(93,2,'2026-09-07T14:17:00.000000+00:00','take','heat taken','{"do": [{"op": "delete", "table": "reading", "ids": [211]}, {"op": "delete", "table": "finding", "ids": [56]}, {"op": "draft", "key": "check:5:heat", "fields": {"surface_c": "36", "ambient_c": "22", "compare_c": "30"}}]}',0);
INSERT INTO "act" VALUES(94,2,'2026-09-07T14:20:00.000000+00:00','take','set timing taken','{"do": [{"op": "delete", "table": "reading", "ids": [212, 213]}, {"op": "delete", "table": "finding", "ids": [57]}, {"op": "delete", "table": "finding", "ids": [58]}, {"op": "delete", "table": "finding", "ids": [59]}, {"op": "draft", "key": "check:5:set_timing", "fields": {"setting": "20", "amps": "2.2", "rpm": "25100", "target": "3", "tolerance": "0.05", "resolution": "1"}}]}',0);
INSERT INTO "act" VALUES(95,2,'2026-09-07T14:22:00.000000+00:00','take','load run taken','{"do": [{"op": "delete", "table": "reading", "ids": [215, 217, 218, 216, 214]}, {"op": "draft", "key": "check:5:load", "fields": {"what": "two-blade 42", "rest_v": "7.9", "load_v": "7.1", "amps": "31", "watts": "220", "thrust_g": "900"}}]}',0);
INSERT INTO "act" VALUES(96,2,'2026-09-07T14:24:00.000000+00:00','take','flywheel taken','{"do": [{"op": "delete", "table": "reading", "ids": [220, 219]}, {"op": "delete", "table": "finding", "ids": [60]}, {"op": "draft", "key": "check:5:flywheel", "fields": {"trace": "0.0,0.0\n0.1,60.0\n0.2,120.0\n0.3,180.0\n0.4,240.0\n0.5,300.0\n0.6,360.0\n0.7,420.0\n0.8,480.0\n0.9,540.0\n1.0,600.0\n1.1,660.0\n1.2,720.0\n1.3,780.0\n1.4,840.0\n1.5,900.0\n1.6,960.0\n1.7,1020.0\n1.8,1080.0\n1.9,1140.0\n2.0,1200.0", "inertia": "0.0002", "at_rpm": "600"}}]}',0);
INSERT INTO "act" VALUES(97,2,'2026-09-07T14:00:00.000000+00:00','skip','poles skipped','{"do": [{"op": "delete", "table": "finding", "ids": [61]}]}',0);
INSERT INTO "act" VALUES(98,1,'2026-09-08T14:00:00.000000+00:00','open','check opened','{"do": [{"op": "delete", "table": "bench_check", "ids": [6]}]}',0);
INSERT INTO "act" VALUES(99,1,'2026-09-08T14:00:00.000000+00:00','set up','rig and warmth noted','{"do": [{"op": "set", "table": "bench_check", "id": 6, "values": {"rig": "", "method": "", "motor_c": null, "ambient_c": null, "timing_set_deg": null}}]}',0);
INSERT INTO "act" VALUES(100,1,'2026-09-08T14:00:00.000000+00:00','take','look and turn taken','{"do": [{"op": "delete", "table": "finding", "ids": [62]}, {"op": "delete", "table": "finding", "ids": [63]}, {"op": "delete", "table": "finding", "ids": [64]}, {"op": "draft", "key": "check:6:look", "fields": {"shaft": "ok", "bearings": "ok", "bearings_note": ""}}]}',0);
INSERT INTO "act" VALUES(101,1,'2026-09-08T14:01:00.000000+00:00','take','gap taken','{"do": [{"op": "delete", "table": "reading", "ids": [222, 224, 221, 223]}, {"op": "draft", "key": "check:6:gap", "fields": {"gaps": "0.60 0.61 0.60 0.59", "angles": "0 90 180 270"}}]}',0);
INSERT INTO "act" VALUES(102,1,'2026-09-08T14:02:00.000000+00:00','take','detent taken','{"do": [{"op": "delete", "table": "reading", "ids": [226, 225, 228, 230, 227, 229]}, {"op": "delete", "table": "finding", "ids": [65]}, {"op": "draft", "key": "check:6:detent", "fields": {"unit": "g on the lever", "lever_mm": "30", "peaks": "62.5 63 62 62.8 62.2 63.1"}}]}',0);
INSERT INTO "act" VALUES(103,1,'2026-09-08T14:03:00.000000+00:00','take','sensors taken','{"do": [{"op": "delete", "table": "finding", "ids": [66]}, {"op": "draft", "key": "check:6:sensors", "fields": {"states": "101 100 110 010 011 001", "turned": "clockwise"}}]}',0);
INSERT INTO "act" VALUES(104,1,'2026-09-08T14:04:00.000000+00:00','take','first spin taken','{"do": [{"op": "delete", "table": "reading", "ids": [231]}, {"op": "delete", "table": "finding", "ids": [67]}, {"op": "draft", "key": "check:6:first_spin", "fields": {"heard": "smooth", "rpm": "3150"}}]}',0);
INSERT INTO "act" VALUES(105,1,'2026-09-08T14:05:00.000000+00:00','take','full throttle, run 1 taken','{"do": [{"op": "delete", "table": "reading", "ids": [235, 232, 233, 234]}, {"op": "draft", "key": "check:6:pull", "fields": {"volts": "3.7", "amps": "1.1", "rpm": "12600", "p2p": "30", "step": "4"}}]}',0);
INSERT INTO "act" VALUES(106,1,'2026-09-08T14:06:00.000000+00:00','take','full throttle, run 2 taken','{"do": [{"op": "delete", "table": "reading", "ids": [239, 238, 237, 236]}, {"op": "draft", "key": "check:6:pull", "fields": {"volts": "7.4", "amps": "2.20", "rpm": "25160", "p2p": "50", "step": "8"}}]}',0);
INSERT INTO "act" VALUES(107,1,'2026-09-08T14:07:00.000000+00:00','take','full throttle, run 3 taken','{"do": [{"op": "delete", "table": "reading", "ids": [240, 242, 241, 243]}, {"op": "draft", "key": "check:6:pull", "fields": {"volts": "7.4", "amps": "2.21", "rpm": "25150", "p2p": "50", "step": "8"}}]}',0);
INSERT INTO "act" VALUES(108,1,'2026-09-08T14:08:00.000000+00:00','take','timing, run 1 taken','{"do": [{"op": "delete", "table": "reading", "ids": [245, 244, 246]}, {"op": "delete", "table": "finding", "ids": [68]}, {"op": "draft", "key": "check:6:timing", "fields": {"a": "27.8", "b": "28.4", "c": "28.1", "sweep": "evenly"}}]}',0);
INSERT INTO "act" VALUES(109,1,'2026-09-08T14:09:00.000000+00:00','take','timing, run 2 taken','{"do": [{"op": "delete", "table": "reading", "ids": [247, 249, 248]}, {"op": "draft", "key": "check:6:timing", "fields": {"a": "27.8", "b": "28.4", "c": "28.1", "sweep": "evenly"}}]}',0);
INSERT INTO "act" VALUES(110,1,'2026-09-08T14:10:00.000000+00:00','take','noise taken','{"do": [{"op": "delete", "table": "reading", "ids": [251, 252, 250, 253]}, {"op": "draft", "key": "check:6:noise", "fields": {"background": "58", "step_one": "63", "half": "73", "full": "81", "placement": "stand", "distance_cm": "10"}}]}',0);
INSERT INTO "act" VALUES(111,1,'2026-09-08T14:12:00.000000+00:00','take','heat taken','{"do": [{"op": "delete", "table": "reading", "ids": [254]}, {"op": "draft", "key": "check:6:heat", "fields": {"surface_c": "44", "ambient_c": "22"}}]}',0);
INSERT INTO "act" VALUES(112,1,'2026-09-08T14:17:00.000000+00:00','take','heat taken','{"do": [{"op": "delete", "table": "reading", "ids": [255]}, {"op": "delete", "table": "finding", "ids": [69]}, {"op": "draft", "key": "check:6:heat", "fields": {"surface_c": "36", "ambient_c": "22", "compare_c": "30"}}]}',0);
INSERT INTO "act" VALUES(113,1,'2026-09-08T14:20:00.000000+00:00','take','set timing taken','{"do": [{"op": "delete", "table": "reading", "ids": [257, 256]}, {"op": "delete", "table": "finding", "ids": [70]}, {"op": "delete", "table": "finding", "ids": [71]}, {"op": "delete", "table": "finding", "ids": [72]}, {"op": "draft", "key": "check:6:set_timing", "fields": {"setting": "20", "amps": "2.2", "rpm": "25100", "target": "3", "tolerance": "0.05", "resolution": "1"}}]}',0);
INSERT INTO "act" VALUES(114,1,'2026-09-08T14:22:00.000000+00:00','take','load run taken','{"do": [{"op": "delete", "table": "reading", "ids": [262, 258, 259, 260, 261]}, {"op": "draft", "key": "check:6:load", "fields": {"what": "two-blade 42", "rest_v": "7.9", "load_v": "7.1", "amps": "31", "watts": "220", "thrust_g": "900"}}]}',0);
INSERT INTO "act" VALUES(115,1,'2026-09-08T14:24:00.000000+00:00','take','flywheel taken','{"do": [{"op": "delete", "table": "reading", "ids": [264, 263]}, {"op": "delete", "table": "finding", "ids": [73]}, {"op": "draft", "key": "check:6:flywheel", "fields": {"trace": "0.0,0.0\n0.1,60.0\n0.2,120.0\n0.3,180.0\n0.4,240.0\n0.5,300.0\n0.6,360.0\n0.7,420.0\n0.8,480.0\n0.9,540.0\n1.0,600.0\n1.1,660.0\n1.2,720.0\n1.3,780.0\n1.4,840.0\n1.5,900.0\n1.6,960.0\n1.7,1020.0\n1.8,1080.0\n1.9,1140.0\n2.0,1200.0", "inertia": "0.0002", "at_rpm": "600"}}]}',0);
INSERT INTO "act" VALUES(116,1,'2026-09-08T14:26:00.000000+00:00','take','noise taken','{"do": [{"op": "delete", "table": "reading", "ids": [266, 265]}, {"op": "draft", "key": "check:6:noise", "fields": {"background": "58", "full": "81.2", "placement": "hand", "distance_cm": "50"}}]}',0);
INSERT INTO "act" VALUES(117,1,'2026-09-08T14:27:00.000000+00:00','take','look and turn taken','{"do": [{"op": "delete", "table": "finding", "ids": [74]}, {"op": "draft", "key": "check:6:look", "fields": {"magnets": "bad"}}]}',0);
INSERT INTO "act" VALUES(118,1,'2026-09-08T14:28:00.000000+00:00','overrule','magnets overruled','{"do": [{"op": "delete", "table": "finding", "ids": [75]}]}',0);
INSERT INTO "act" VALUES(119,1,'2026-09-08T14:29:00.000000+00:00','aside','run 3 set aside','{"do": [{"op": "set", "table": "reading", "id": 240, "values": {"accepted": true, "aside_reason": ""}}, {"op": "set", "table": "reading", "id": 241, "values": {"accepted": true, "aside_reason": ""}}, {"op": "set", "table": "reading", "id": 242, "values": {"accepted": true, "aside_reason": ""}}, {"op": "set", "table": "reading", "id": 243, "values": {"accepted": true, "aside_reason": ""}}]}',0);
INSERT INTO "act" VALUES(120,1,'2026-09-08T14:30:00.000000+00:00','stop','run stopped','{"do": [{"op": "delete", "table": "finding", "ids": [76]}, {"op": "delete", "table": "finding", "ids": [77]}]}',0);
INSERT INTO "act" VALUES(121,3,'2026-09-12T14:00:00.000000+00:00','open','check opened','{"do": [{"op": "delete", "table": "bench_check", "ids": [7]}]}',0);
INSERT INTO "act" VALUES(122,3,'2026-09-12T14:00:00.000000+00:00','set up','rig and warmth noted','{"do": [{"op": "set", "table": "bench_check", "id": 7, "values": {"rig": "", "method": "", "motor_c": null, "ambient_c": null, "timing_set_deg": null}}]}',0);
INSERT INTO "act" VALUES(123,3,'2026-09-12T14:00:00.000000+00:00','take','full throttle, run 1 taken','{"do": [{"op": "delete", "table": "reading", "ids": [268, 269, 267]}, {"op": "draft", "key": "check:7:pull", "fields": {"volts": "11.1", "amps": "0.5", "rpm": "11800", "step": "8"}}]}',0);
INSERT INTO "act" VALUES(124,3,'2026-09-12T14:00:00.000000+00:00','take','poles taken','{"do": [{"op": "delete", "table": "reading", "ids": [273, 270, 271, 272]}, {"op": "delete", "table": "finding", "ids": [78]}, {"op": "set", "table": "motor", "id": 3, "values": {"poles": 12, "poles_known_by": "assumed", "slots": null}}, {"op": "draft", "key": "check:7:poles", "fields": {"frequency_hz": "116.8 116.5", "reference_hz": "33.4 33.3", "reference_poles": "4"}}]}',0);
INSERT INTO "act" VALUES(125,3,'2026-09-12T14:00:00.000000+00:00','rebase','1 speeds re-based from 12 to 14 poles','{"do": [{"op": "each", "table": "reading", "column": "value", "values": {"269": 11800.0}}, {"op": "delete", "table": "finding", "ids": [79]}]}',0);
INSERT INTO "act" VALUES(126,1,'2026-09-12T14:00:00.000000+00:00','shake','shaking noted','{"do": [{"op": "delete", "table": "reading", "ids": [274]}]}',0);
INSERT INTO "act" VALUES(127,2,'2026-09-12T14:00:00.000000+00:00','shake','shaking noted','{"do": [{"op": "delete", "table": "reading", "ids": [275]}]}',0);
CREATE TABLE alembic_version (
	version_num VARCHAR(32) NOT NULL, 
	CONSTRAINT alembic_version_pkc PRIMARY KEY (version_num)
);
INSERT INTO "alembic_version" VALUES('0002');
CREATE TABLE bench_check (
	id INTEGER NOT NULL, 
	motor_id INTEGER NOT NULL, 
	"key" VARCHAR NOT NULL, 
	at VARCHAR NOT NULL, 
	open BOOLEAN NOT NULL, 
	rig VARCHAR NOT NULL, 
	method VARCHAR NOT NULL, 
	motor_c DOUBLE, 
	ambient_c DOUBLE, timing_set_deg DOUBLE, "plan" VARCHAR DEFAULT 'quick' NOT NULL, 
	CONSTRAINT pk_bench_check PRIMARY KEY (id), 
	CONSTRAINT fk_bench_check_motor_id_motor FOREIGN KEY(motor_id) REFERENCES motor (id), 
	CONSTRAINT uq_bench_check_motor_id_key UNIQUE (motor_id, "key")
);
INSERT INTO "bench_check" VALUES(1,1,'2026-07-14T14:00:00+00:00','2026-07-14T14:00:00.000000+00:00',0,'green bench','loaded-supply',24.0,22.0,20.0,'full');
INSERT INTO "bench_check" VALUES(2,1,'2026-07-28T14:00:00+00:00','2026-07-28T14:00:00.000000+00:00',0,'green bench','loaded-supply',24.0,22.0,20.0,'full');
INSERT INTO "bench_check" VALUES(3,2,'2026-07-14T14:00:00+00:00','2026-07-14T14:00:00.000000+00:00',0,'green bench','loaded-supply',24.0,22.0,20.0,'full');
INSERT INTO "bench_check" VALUES(4,2,'2026-07-28T14:00:00+00:00','2026-07-28T14:00:00.000000+00:00',0,'green bench','loaded-supply',24.0,22.0,20.0,'full');
INSERT INTO "bench_check" VALUES(5,2,'2026-09-07T14:00:00+00:00','2026-09-07T14:00:00.000000+00:00',1,'green bench','loaded-supply',24.0,22.0,20.0,'full');
INSERT INTO "bench_check" VALUES(6,1,'2026-09-08T14:00:00+00:00','2026-09-08T14:00:00.000000+00:00',1,'green bench','loaded-supply',24.0,22.0,20.0,'full');
INSERT INTO "bench_check" VALUES(7,3,'2026-09-12T14:00:00+00:00','2026-09-12T14:00:00.000000+00:00',1,'stand','fixed-volt',NULL,NULL,NULL,'only:poles');
CREATE TABLE class_limits (
	id INTEGER NOT NULL, 
	motor_class VARCHAR NOT NULL, 
	limits JSON NOT NULL, 
	at VARCHAR NOT NULL, 
	signed_by VARCHAR NOT NULL, 
	CONSTRAINT pk_class_limits PRIMARY KEY (id)
);
INSERT INTO "class_limits" VALUES(1,'one-design','{"noise_avg": [3.0, 7.0]}','2026-09-12T14:00:00.000000+00:00','Oda');
CREATE TABLE draft (
	"key" VARCHAR NOT NULL, 
	fields JSON NOT NULL, 
	CONSTRAINT pk_draft PRIMARY KEY ("key")
);
INSERT INTO "draft" VALUES('check:7:noise','{"background": "60"}');
CREATE TABLE event (
	id INTEGER NOT NULL, 
	motor_id INTEGER NOT NULL, 
	at VARCHAR NOT NULL, 
	event VARCHAR NOT NULL, 
	count INTEGER NOT NULL, 
	detail VARCHAR NOT NULL, 
	CONSTRAINT pk_event PRIMARY KEY (id), 
	CONSTRAINT fk_event_motor_id_motor FOREIGN KEY(motor_id) REFERENCES motor (id), 
	CONSTRAINT uq_event_motor_id_at_event_count_detail UNIQUE (motor_id, at, event, count, detail)
);
INSERT INTO "event" VALUES(1,2,'2026-08-20T10:00:00.000000+00:00','dunked',1,'rolled');
INSERT INTO "event" VALUES(2,2,'2026-08-20T11:00:00.000000+00:00','run',5,'');
CREATE TABLE finding (
	id INTEGER NOT NULL, 
	check_id INTEGER NOT NULL, 
	subject VARCHAR NOT NULL, 
	value VARCHAR NOT NULL, 
	note VARCHAR NOT NULL, 
	at VARCHAR NOT NULL, 
	CONSTRAINT pk_finding PRIMARY KEY (id), 
	CONSTRAINT fk_finding_check_id_bench_check FOREIGN KEY(check_id) REFERENCES bench_check (id), 
	CONSTRAINT uq_finding_check_id_subject UNIQUE (check_id, subject)
);
INSERT INTO "finding" VALUES(1,1,'inspect:shaft','ok','','2026-07-14T14:00:00.000000+00:00');
INSERT INTO "finding" VALUES(2,1,'inspect:bearings','ok','','2026-07-14T14:00:00.000000+00:00');
INSERT INTO "finding" VALUES(3,1,'step:look','done','','2026-07-14T14:00:00.000000+00:00');
INSERT INTO "finding" VALUES(4,1,'lever','g on the lever','30','2026-07-14T14:02:00.000000+00:00');
INSERT INTO "finding" VALUES(5,1,'hall','good','101 100 110 010 011 001|clockwise|1','2026-07-14T14:03:00.000000+00:00');
INSERT INTO "finding" VALUES(6,1,'first_spin','smooth','','2026-07-14T14:04:00.000000+00:00');
INSERT INTO "finding" VALUES(7,1,'sweep','evenly','','2026-07-14T14:08:00.000000+00:00');
INSERT INTO "finding" VALUES(8,1,'compare_c','30','','2026-07-14T14:17:00.000000+00:00');
INSERT INTO "finding" VALUES(9,1,'set_timing:target','3','green bench','2026-07-14T14:20:00.000000+00:00');
INSERT INTO "finding" VALUES(10,1,'set_timing:tolerance','0.05','','2026-07-14T14:20:00.000000+00:00');
INSERT INTO "finding" VALUES(11,1,'set_timing:resolution','1','','2026-07-14T14:20:00.000000+00:00');
INSERT INTO "finding" VALUES(12,1,'trace','0.0,0.0
0.1,60.0
0.2,120.0
0.3,180.0
0.4,240.0
0.5,300.0
0.6,360.0
0.7,420.0
0.8,480.0
0.9,540.0
1.0,600.0
1.1,660.0
1.2,720.0
1.3,780.0
1.4,840.0
1.5,900.0
1.6,960.0
1.7,1020.0
1.8,1080.0
1.9,1140.0
2.0,1200.0','0.0002','2026-07-14T14:24:00.000000+00:00');
INSERT INTO "finding" VALUES(13,2,'inspect:shaft','ok','','2026-07-28T14:00:00.000000+00:00');
INSERT INTO "finding" VALUES(14,2,'inspect:bearings','ok','','2026-07-28T14:00:00.000000+00:00');
INSERT INTO "finding" VALUES(15,2,'step:look','done','','2026-07-28T14:00:00.000000+00:00');
INSERT INTO "finding" VALUES(16,2,'lever','g on the lever','30','2026-07-28T14:02:00.000000+00:00');
INSERT INTO "finding" VALUES(17,2,'hall','good','101 100 110 010 011 001|clockwise|1','2026-07-28T14:03:00.000000+00:00');
INSERT INTO "finding" VALUES(18,2,'first_spin','smooth','','2026-07-28T14:04:00.000000+00:00');
INSERT INTO "finding" VALUES(19,2,'sweep','evenly','','2026-07-28T14:08:00.000000+00:00');
INSERT INTO "finding" VALUES(20,2,'compare_c','30','','2026-07-28T14:17:00.000000+00:00');
INSERT INTO "finding" VALUES(21,2,'set_timing:target','3','green bench','2026-07-28T14:20:00.000000+00:00');
INSERT INTO "finding" VALUES(22,2,'set_timing:tolerance','0.05','','2026-07-28T14:20:00.000000+00:00');
INSERT INTO "finding" VALUES(23,2,'set_timing:resolution','1','','2026-07-28T14:20:00.000000+00:00');
INSERT INTO "finding" VALUES(24,2,'trace','0.0,0.0
0.1,60.0
0.2,120.0
0.3,180.0
0.4,240.0
0.5,300.0
0.6,360.0
0.7,420.0
0.8,480.0
0.9,540.0
1.0,600.0
1.1,660.0
1.2,720.0
1.3,780.0
1.4,840.0
1.5,900.0
1.6,960.0
1.7,1020.0
1.8,1080.0
1.9,1140.0
2.0,1200.0','0.0002','2026-07-28T14:24:00.000000+00:00');
INSERT INTO "finding" VALUES(25,3,'inspect:shaft','ok','','2026-07-14T14:00:00.000000+00:00');
INSERT INTO "finding" VALUES(26,3,'inspect:bearings','ok','','2026-07-14T14:00:00.000000+00:00');
INSERT INTO "finding" VALUES(27,3,'step:look','done','','2026-07-14T14:00:00.000000+00:00');
INSERT INTO "finding" VALUES(28,3,'lever','g on the lever','30','2026-07-14T14:02:00.000000+00:00');
INSERT INTO "finding" VALUES(29,3,'hall','good','101 100 110 010 011 001|clockwise|1','2026-07-14T14:03:00.000000+00:00');
INSERT INTO "finding" VALUES(30,3,'first_spin','smooth','','2026-07-14T14:04:00.000000+00:00');
INSERT INTO "finding" VALUES(31,3,'sweep','evenly','','2026-07-14T14:08:00.000000+00:00');
INSERT INTO "finding" VALUES(32,3,'compare_c','30','','2026-07-14T14:17:00.000000+00:00');
INSERT INTO "finding" VALUES(33,3,'set_timing:target','3','green bench','2026-07-14T14:20:00.000000+00:00');
INSERT INTO "finding" VALUES(34,3,'set_timing:tolerance','0.05','','2026-07-14T14:20:00.000000+00:00');
INSERT INTO "finding" VALUES(35,3,'set_timing:resolution','1','','2026-07-14T14:20:00.000000+00:00');
INSERT INTO "finding" VALUES(36,3,'trace','0.0,0.0
0.1,60.0
0.2,120.0
0.3,180.0
0.4,240.0
0.5,300.0
0.6,360.0
0.7,420.0
0.8,480.0
0.9,540.0
1.0,600.0
1.1,660.0
1.2,720.0
1.3,780.0
1.4,840.0
1.5,900.0
1.6,960.0
1.7,1020.0
1.8,1080.0
1.9,1140.0
2.0,1200.0','0.0002','2026-07-14T14:24:00.000000+00:00');
INSERT INTO "finding" VALUES(37,4,'inspect:shaft','ok','','2026-07-28T14:00:00.000000+00:00');
INSERT INTO "finding" VALUES(38,4,'inspect:bearings','ok','','2026-07-28T14:00:00.000000+00:00');
INSERT INTO "finding" VALUES(39,4,'step:look','done','','2026-07-28T14:00:00.000000+00:00');
INSERT INTO "finding" VALUES(40,4,'lever','g on the lever','30','2026-07-28T14:02:00.000000+00:00');
INSERT INTO "finding" VALUES(41,4,'hall','good','101 100 110 010 011 001|clockwise|1','2026-07-28T14:03:00.000000+00:00');
INSERT INTO "finding" VALUES(42,4,'first_spin','smooth','','2026-07-28T14:04:00.000000+00:00');
INSERT INTO "finding" VALUES(43,4,'sweep','evenly','','2026-07-28T14:08:00.000000+00:00');
INSERT INTO "finding" VALUES(44,4,'compare_c','30','','2026-07-28T14:17:00.000000+00:00');
INSERT INTO "finding" VALUES(45,4,'set_timing:target','3','green bench','2026-07-28T14:20:00.000000+00:00');
INSERT INTO "finding" VALUES(46,4,'set_timing:tolerance','0.05','','2026-07-28T14:20:00.000000+00:00');
INSERT INTO "finding" VALUES(47,4,'set_timing:resolution','1','','2026-07-28T14:20:00.000000+00:00');
INSERT INTO "finding" VALUES(48,4,'trace','0.0,0.0
0.1,60.0
0.2,120.0
0.3,180.0
0.4,240.0
0.5,300.0
0.6,360.0
0.7,420.0
0.8,480.0
0.9,540.0
1.0,600.0
1.1,660.0
1.2,720.0
1.3,780.0
1.4,840.0
1.5,900.0
1.6,960.0
1.7,1020.0
1.8,1080.0
1.9,1140.0
2.0,1200.0','0.0002','2026-07-28T14:24:00.000000+00:00');
INSERT INTO "finding" VALUES(49,5,'inspect:shaft','ok','','2026-09-07T14:00:00.000000+00:00');
INSERT INTO "finding" VALUES(50,5,'inspect:bearings','doubt','gritty','2026-09-07T14:00:00.000000+00:00');
INSERT INTO "finding" VALUES(51,5,'step:look','done','','2026-09-07T14:00:00.000000+00:00');
INSERT INTO "finding" VALUES(52,5,'lever','g on the lever','30','2026-09-07T14:02:00.000000+00:00');
INSERT INTO "finding" VALUES(53,5,'hall','good','101 100 110 010 011 001|clockwise|1','2026-09-07T14:03:00.000000+00:00');
INSERT INTO "finding" VALUES(54,5,'first_spin','smooth','','2026-09-07T14:04:00.000000+00:00');
INSERT INTO "finding" VALUES(55,5,'sweep','evenly','','2026-09-07T14:08:00.000000+00:00');
INSERT INTO "finding" VALUES(56,5,'compare_c','30','','2026-09-07T14:17:00.000000+00:00');
INSERT INTO "finding" VALUES(57,5,'set_timing:target','3','green bench','2026-09-07T14:20:00.000000+00:00');
INSERT INTO "finding" VALUES(58,5,'set_timing:tolerance','0.05','','2026-09-07T14:20:00.000000+00:00');
INSERT INTO "finding" VALUES(59,5,'set_timing:resolution','1','','2026-09-07T14:20:00.000000+00:00');
INSERT INTO "finding" VALUES(60,5,'trace','0.0,0.0
0.1,60.0
0.2,120.0
0.3,180.0
0.4,240.0
0.5,300.0
0.6,360.0
0.7,420.0
0.8,480.0
0.9,540.0
1.0,600.0
1.1,660.0
1.2,720.0
1.3,780.0
1.4,840.0
1.5,900.0
1.6,960.0
1.7,1020.0
1.8,1080.0
1.9,1140.0
2.0,1200.0','0.0002','2026-09-07T14:24:00.000000+00:00');
INSERT INTO "finding" VALUES(61,5,'step:poles','skipped','','2026-09-07T14:00:00.000000+00:00');
INSERT INTO "finding" VALUES(62,6,'inspect:shaft','ok','','2026-09-08T14:00:00.000000+00:00');
INSERT INTO "finding" VALUES(63,6,'inspect:bearings','ok','','2026-09-08T14:00:00.000000+00:00');
INSERT INTO "finding" VALUES(64,6,'step:look','done','','2026-09-08T14:00:00.000000+00:00');
INSERT INTO "finding" VALUES(65,6,'lever','g on the lever','30','2026-09-08T14:02:00.000000+00:00');
INSERT INTO "finding" VALUES(66,6,'hall','good','101 100 110 010 011 001|clockwise|1','2026-09-08T14:03:00.000000+00:00');
INSERT INTO "finding" VALUES(67,6,'first_spin','smooth','','2026-09-08T14:04:00.000000+00:00');
INSERT INTO "finding" VALUES(68,6,'sweep','evenly','','2026-09-08T14:08:00.000000+00:00');
INSERT INTO "finding" VALUES(69,6,'compare_c','30','','2026-09-08T14:17:00.000000+00:00');
INSERT INTO "finding" VALUES(70,6,'set_timing:target','3','green bench','2026-09-08T14:20:00.000000+00:00');
INSERT INTO "finding" VALUES(71,6,'set_timing:tolerance','0.05','','2026-09-08T14:20:00.000000+00:00');
INSERT INTO "finding" VALUES(72,6,'set_timing:resolution','1','','2026-09-08T14:20:00.000000+00:00');
INSERT INTO "finding" VALUES(73,6,'trace','0.0,0.0
0.1,60.0
0.2,120.0
0.3,180.0
0.4,240.0
0.5,300.0
0.6,360.0
0.7,420.0
0.8,480.0
0.9,540.0
1.0,600.0
1.1,660.0
1.2,720.0
1.3,780.0
1.4,840.0
1.5,900.0
1.6,960.0
1.7,1020.0
1.8,1080.0
1.9,1140.0
2.0,1200.0','0.0002','2026-09-08T14:24:00.000000+00:00');
INSERT INTO "finding" VALUES(74,6,'inspect:magnets','bad','','2026-09-08T14:27:00.000000+00:00');
INSERT INTO "finding" VALUES(75,6,'overruled:magnets','only dirt','','2026-09-08T14:28:00.000000+00:00');
INSERT INTO "finding" VALUES(76,6,'step:poles','skipped','','2026-09-08T14:30:00.000000+00:00');
INSERT INTO "finding" VALUES(77,6,'stopped','called to the heat','','2026-09-08T14:30:00.000000+00:00');
INSERT INTO "finding" VALUES(78,7,'poles','14','set to 12 before','2026-09-12T14:00:00.000000+00:00');
INSERT INTO "finding" VALUES(79,7,'rebased','12 to 14','','2026-09-12T14:00:00.000000+00:00');
CREATE TABLE motor (
	id INTEGER NOT NULL, 
	tag VARCHAR NOT NULL, 
	tag_key VARCHAR NOT NULL, 
	model VARCHAR NOT NULL, 
	model_key VARCHAR NOT NULL, 
	kind VARCHAR NOT NULL, 
	sensored BOOLEAN NOT NULL, 
	motor_class VARCHAR NOT NULL, 
	label_kv DOUBLE, 
	turns DOUBLE, 
	poles INTEGER, 
	poles_known_by VARCHAR NOT NULL, 
	slots INTEGER, 
	magnet VARCHAR NOT NULL, 
	mass_g DOUBLE, 
	lead_mm DOUBLE, 
	lead_awg DOUBLE, 
	machine VARCHAR NOT NULL, 
	position VARCHAR NOT NULL, 
	owner VARCHAR NOT NULL, 
	in_service_on VARCHAR NOT NULL, 
	note VARCHAR NOT NULL, 
	search VARCHAR NOT NULL, 
	CONSTRAINT pk_motor PRIMARY KEY (id), 
	CONSTRAINT ck_motor_kind CHECK (kind IN ('inrunner', 'outrunner')), 
	CONSTRAINT ck_motor_poles_even CHECK (poles IS NULL OR (poles >= 2 AND poles % 2 = 0)), 
	CONSTRAINT uq_motor_tag_key UNIQUE (tag_key)
);
INSERT INTO "motor" VALUES(1,'VS-01','vs-01','Skerry 36','skerry 36','inrunner',1,'',3450.0,NULL,4,'counted',12,'neodymium',178.0,NULL,NULL,'Heron','left','Ines','2026-07-14','','vs-01 skerry 36 ines heron left');
INSERT INTO "motor" VALUES(2,'VS-02','vs-02','Skerry 36','skerry 36','inrunner',1,'',3450.0,NULL,4,'counted',12,'neodymium',178.0,NULL,NULL,'Heron','right','Ines','2026-07-14','','vs-02 skerry 36 ines heron right');
INSERT INTO "motor" VALUES(3,'VS-03','vs-03','Petrel 22','petrel 22','outrunner',0,'',920.0,NULL,14,'electrical',NULL,'neodymium',NULL,NULL,NULL,'','','','2026-07-14','','vs-03 petrel 22   ');
CREATE TABLE own_baseline (
	id INTEGER NOT NULL, 
	motor_id INTEGER NOT NULL, 
	quantity VARCHAR NOT NULL, 
	value DOUBLE NOT NULL, 
	n INTEGER NOT NULL, 
	conditions JSON NOT NULL, 
	CONSTRAINT pk_own_baseline PRIMARY KEY (id), 
	CONSTRAINT fk_own_baseline_motor_id_motor FOREIGN KEY(motor_id) REFERENCES motor (id)
);
INSERT INTO "own_baseline" VALUES(1,1,'kv',3.40306358108108088353e+03,2,'{"rig": "green bench", "method": "loaded-supply", "throttle_pct": 100.0, "placement": "", "supply_v": null, "timing_set_deg": 20.0, "motor_c": 24.0, "ambient_c": 22.0}');
INSERT INTO "own_baseline" VALUES(2,1,'no_load_current',2.205,2,'{"rig": "green bench", "method": "loaded-supply", "throttle_pct": 100.0, "placement": "", "supply_v": 7.4, "timing_set_deg": 20.0, "motor_c": 24.0, "ambient_c": 22.0}');
INSERT INTO "own_baseline" VALUES(3,1,'steadiness',1.98767648481132291893e-01,2,'{"rig": "green bench", "method": "loaded-supply", "throttle_pct": 100.0, "placement": "", "supply_v": null, "timing_set_deg": 20.0, "motor_c": 24.0, "ambient_c": 22.0}');
INSERT INTO "own_baseline" VALUES(4,1,'timing_mean',28.1,2,'{"rig": "green bench", "method": "", "throttle_pct": null, "placement": "", "supply_v": null, "timing_set_deg": 20.0, "motor_c": 24.0, "ambient_c": 22.0}');
INSERT INTO "own_baseline" VALUES(5,1,'timing_spread',5.99999999999997868371e-01,2,'{"rig": "green bench", "method": "", "throttle_pct": null, "placement": "", "supply_v": null, "timing_set_deg": 20.0, "motor_c": 24.0, "ambient_c": 22.0}');
INSERT INTO "own_baseline" VALUES(6,1,'noise_avg',61.3491146137323,1,'{"rig": "green bench", "method": "", "throttle_pct": 12.5, "placement": "stand", "supply_v": null, "timing_set_deg": 20.0, "motor_c": 24.0, "ambient_c": 22.0}');
INSERT INTO "own_baseline" VALUES(7,1,'noise_avg',7.28604456611794404352e+01,1,'{"rig": "green bench", "method": "", "throttle_pct": 50.0, "placement": "stand", "supply_v": null, "timing_set_deg": 20.0, "motor_c": 24.0, "ambient_c": 22.0}');
INSERT INTO "own_baseline" VALUES(8,1,'noise_avg',8.09781789871467907494e+01,1,'{"rig": "green bench", "method": "", "throttle_pct": 100.0, "placement": "stand", "supply_v": null, "timing_set_deg": 20.0, "motor_c": 24.0, "ambient_c": 22.0}');
INSERT INTO "own_baseline" VALUES(9,1,'noise_avg',8.11791634543406672754e+01,1,'{"rig": "green bench", "method": "", "throttle_pct": 100.0, "placement": "hand", "supply_v": null, "timing_set_deg": 20.0, "motor_c": 24.0, "ambient_c": 22.0}');
INSERT INTO "own_baseline" VALUES(10,1,'temperature',22.0,1,'{"rig": "green bench", "method": "", "throttle_pct": null, "placement": "", "supply_v": null, "timing_set_deg": 20.0, "motor_c": 24.0, "ambient_c": 22.0}');
INSERT INTO "own_baseline" VALUES(11,1,'detent_peak',1.83911159666231043274e+01,6,'{"rig": "green bench", "method": "", "throttle_pct": null, "placement": "", "supply_v": null, "timing_set_deg": 20.0, "motor_c": 24.0, "ambient_c": 22.0}');
INSERT INTO "own_baseline" VALUES(12,1,'detent_variation',1.75578611332802658751e+00,1,'{"rig": "green bench", "method": "", "throttle_pct": null, "placement": "", "supply_v": null, "timing_set_deg": 20.0, "motor_c": 24.0, "ambient_c": 22.0}');
INSERT INTO "own_baseline" VALUES(13,1,'run_out',2.00000000000000142941e-02,1,'{"rig": "green bench", "method": "", "throttle_pct": null, "placement": "", "supply_v": null, "timing_set_deg": 20.0, "motor_c": 24.0, "ambient_c": 22.0}');
INSERT INTO "own_baseline" VALUES(14,1,'vibration',1.0,1,'{"rig": "", "method": "", "throttle_pct": 12.5, "placement": "machine", "supply_v": null, "timing_set_deg": null, "motor_c": null, "ambient_c": null}');
INSERT INTO "own_baseline" VALUES(15,2,'kv',3.40306358108108088353e+03,2,'{"rig": "green bench", "method": "loaded-supply", "throttle_pct": 100.0, "placement": "", "supply_v": null, "timing_set_deg": 20.0, "motor_c": 24.0, "ambient_c": 22.0}');
INSERT INTO "own_baseline" VALUES(16,2,'no_load_current',2.205,2,'{"rig": "green bench", "method": "loaded-supply", "throttle_pct": 100.0, "placement": "", "supply_v": 7.4, "timing_set_deg": 20.0, "motor_c": 24.0, "ambient_c": 22.0}');
INSERT INTO "own_baseline" VALUES(17,2,'steadiness',1.98767648481132291893e-01,2,'{"rig": "green bench", "method": "loaded-supply", "throttle_pct": 100.0, "placement": "", "supply_v": null, "timing_set_deg": 20.0, "motor_c": 24.0, "ambient_c": 22.0}');
INSERT INTO "own_baseline" VALUES(18,2,'timing_mean',28.1,2,'{"rig": "green bench", "method": "", "throttle_pct": null, "placement": "", "supply_v": null, "timing_set_deg": 20.0, "motor_c": 24.0, "ambient_c": 22.0}');
INSERT INTO "own_baseline" VALUES(19,2,'timing_spread',5.99999999999997868371e-01,2,'{"rig": "green bench", "method": "", "throttle_pct": null, "placement": "", "supply_v": null, "timing_set_deg": 20.0, "motor_c": 24.0, "ambient_c": 22.0}');
INSERT INTO "own_baseline" VALUES(20,2,'noise_avg',61.3491146137323,1,'{"rig": "green bench", "method": "", "throttle_pct": 12.5, "placement": "stand", "supply_v": null, "timing_set_deg": 20.0, "motor_c": 24.0, "ambient_c": 22.0}');
INSERT INTO "own_baseline" VALUES(21,2,'noise_avg',7.28604456611794404352e+01,1,'{"rig": "green bench", "method": "", "throttle_pct": 50.0, "placement": "stand", "supply_v": null, "timing_set_deg": 20.0, "motor_c": 24.0, "ambient_c": 22.0}');
INSERT INTO "own_baseline" VALUES(22,2,'noise_avg',8.09781789871467907494e+01,1,'{"rig": "green bench", "method": "", "throttle_pct": 100.0, "placement": "stand", "supply_v": null, "timing_set_deg": 20.0, "motor_c": 24.0, "ambient_c": 22.0}');
INSERT INTO "own_baseline" VALUES(23,2,'temperature',22.0,1,'{"rig": "green bench", "method": "", "throttle_pct": null, "placement": "", "supply_v": null, "timing_set_deg": 20.0, "motor_c": 24.0, "ambient_c": 22.0}');
INSERT INTO "own_baseline" VALUES(24,2,'detent_peak',1.83911159666231043274e+01,6,'{"rig": "green bench", "method": "", "throttle_pct": null, "placement": "", "supply_v": null, "timing_set_deg": 20.0, "motor_c": 24.0, "ambient_c": 22.0}');
INSERT INTO "own_baseline" VALUES(25,2,'detent_variation',1.75578611332802658751e+00,1,'{"rig": "green bench", "method": "", "throttle_pct": null, "placement": "", "supply_v": null, "timing_set_deg": 20.0, "motor_c": 24.0, "ambient_c": 22.0}');
INSERT INTO "own_baseline" VALUES(26,2,'run_out',2.00000000000000142941e-02,1,'{"rig": "green bench", "method": "", "throttle_pct": null, "placement": "", "supply_v": null, "timing_set_deg": 20.0, "motor_c": 24.0, "ambient_c": 22.0}');
INSERT INTO "own_baseline" VALUES(27,2,'vibration',3.5,1,'{"rig": "", "method": "", "throttle_pct": 12.5, "placement": "machine", "supply_v": null, "timing_set_deg": null, "motor_c": null, "ambient_c": null}');
INSERT INTO "own_baseline" VALUES(28,3,'kv',9.11196911196911173667e+02,1,'{"rig": "stand", "method": "fixed-volt", "throttle_pct": 100.0, "placement": "", "supply_v": null, "timing_set_deg": null, "motor_c": null, "ambient_c": null}');
INSERT INTO "own_baseline" VALUES(29,3,'no_load_current',0.5,1,'{"rig": "stand", "method": "fixed-volt", "throttle_pct": 100.0, "placement": "", "supply_v": 11.1, "timing_set_deg": null, "motor_c": null, "ambient_c": null}');
CREATE TABLE owner_prices (
	owner VARCHAR NOT NULL, 
	new DOUBLE NOT NULL, 
	repair DOUBLE NOT NULL, 
	failure DOUBLE NOT NULL, 
	CONSTRAINT pk_owner_prices PRIMARY KEY (owner)
);
INSERT INTO "owner_prices" VALUES('Ines',1.0,0.4,2.0);
CREATE TABLE picture (
	id INTEGER NOT NULL, 
	check_id INTEGER NOT NULL, 
	item VARCHAR NOT NULL, 
	at VARCHAR NOT NULL, 
	width INTEGER NOT NULL, 
	height INTEGER NOT NULL, 
	image BLOB NOT NULL, 
	CONSTRAINT pk_picture PRIMARY KEY (id), 
	CONSTRAINT fk_picture_check_id_bench_check FOREIGN KEY(check_id) REFERENCES bench_check (id)
);
CREATE TABLE reading (
	id INTEGER NOT NULL, 
	check_id INTEGER NOT NULL, 
	fingerprint INTEGER NOT NULL, 
	occurrence INTEGER NOT NULL, 
	at VARCHAR NOT NULL, 
	measure VARCHAR NOT NULL, 
	value DOUBLE NOT NULL, 
	run INTEGER NOT NULL, 
	step INTEGER, 
	throttle_pct DOUBLE, 
	rig VARCHAR NOT NULL, 
	method VARCHAR NOT NULL, 
	placement VARCHAR NOT NULL, 
	supply_v DOUBLE, 
	timing_set_deg DOUBLE, 
	motor_c DOUBLE, 
	ambient_c DOUBLE, 
	angle_deg DOUBLE, 
	accepted BOOLEAN NOT NULL, 
	aside_reason VARCHAR NOT NULL, 
	note VARCHAR NOT NULL, 
	CONSTRAINT pk_reading PRIMARY KEY (id), 
	CONSTRAINT fk_reading_check_id_bench_check FOREIGN KEY(check_id) REFERENCES bench_check (id), 
	CONSTRAINT uq_reading_check_id_fingerprint_occurrence UNIQUE (check_id, fingerprint, occurrence)
);
INSERT INTO "reading" VALUES(1,1,2590854503876805455,0,'2026-07-14T14:01:00.000000+00:00','gap',0.6,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,0.0,1,'','');
INSERT INTO "reading" VALUES(2,1,-364958327706473248,0,'2026-07-14T14:01:00.000000+00:00','gap',0.61,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,90.0,1,'','');
INSERT INTO "reading" VALUES(3,1,8334825695123240101,0,'2026-07-14T14:01:00.000000+00:00','gap',0.6,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,180.0,1,'','');
INSERT INTO "reading" VALUES(4,1,-490426301100132122,0,'2026-07-14T14:01:00.000000+00:00','gap',0.59,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,270.0,1,'','');
INSERT INTO "reading" VALUES(5,1,-417950478259589422,0,'2026-07-14T14:02:00.000000+00:00','detent_peak',18.38746875,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','1');
INSERT INTO "reading" VALUES(6,1,747119321186468421,0,'2026-07-14T14:02:00.000000+00:00','detent_peak',18.5345685,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','2');
INSERT INTO "reading" VALUES(7,1,-3823772238209050261,0,'2026-07-14T14:02:00.000000+00:00','detent_peak',1.82403689999999976123e+01,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','3');
INSERT INTO "reading" VALUES(8,1,-2453422827904556495,0,'2026-07-14T14:02:00.000000+00:00','detent_peak',1.84757285999999965042e+01,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','4');
INSERT INTO "reading" VALUES(9,1,3967177604532494683,0,'2026-07-14T14:02:00.000000+00:00','detent_peak',1.82992088999999964471e+01,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','5');
INSERT INTO "reading" VALUES(10,1,-998721905617164157,0,'2026-07-14T14:02:00.000000+00:00','detent_peak',18.56398845,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','6');
INSERT INTO "reading" VALUES(11,1,-4623832353427761348,0,'2026-07-14T14:04:00.000000+00:00','rpm',3150.0,1,1,NULL,'green bench','loaded-supply','',NULL,20.0,24.0,22.0,NULL,1,'','first spin');
INSERT INTO "reading" VALUES(12,1,-9001717372486363888,0,'2026-07-14T14:05:00.000000+00:00','supply_volts',3.7,1,4,NULL,'green bench','loaded-supply','',NULL,20.0,24.0,22.0,NULL,1,'','');
INSERT INTO "reading" VALUES(13,1,5596807313315378360,0,'2026-07-14T14:05:00.000000+00:00','no_load_current',1.1,1,4,NULL,'green bench','loaded-supply','',NULL,20.0,24.0,22.0,NULL,1,'','');
INSERT INTO "reading" VALUES(14,1,-3541957994110461195,0,'2026-07-14T14:05:00.000000+00:00','rpm',12600.0,1,4,NULL,'green bench','loaded-supply','',NULL,20.0,24.0,22.0,NULL,1,'','');
INSERT INTO "reading" VALUES(15,1,301063157954489235,0,'2026-07-14T14:05:00.000000+00:00','rpm_p2p',30.0,1,4,NULL,'green bench','loaded-supply','',NULL,20.0,24.0,22.0,NULL,1,'','');
INSERT INTO "reading" VALUES(16,1,-3188623128871064471,0,'2026-07-14T14:06:00.000000+00:00','supply_volts',7.4,2,8,NULL,'green bench','loaded-supply','',NULL,20.0,24.0,22.0,NULL,1,'','');
INSERT INTO "reading" VALUES(17,1,7606255952889052010,0,'2026-07-14T14:06:00.000000+00:00','no_load_current',2.2,2,8,NULL,'green bench','loaded-supply','',NULL,20.0,24.0,22.0,NULL,1,'','');
INSERT INTO "reading" VALUES(18,1,6691473197059110543,0,'2026-07-14T14:06:00.000000+00:00','rpm',25160.0,2,8,NULL,'green bench','loaded-supply','',NULL,20.0,24.0,22.0,NULL,1,'','');
INSERT INTO "reading" VALUES(19,1,850211969678078480,0,'2026-07-14T14:06:00.000000+00:00','rpm_p2p',50.0,2,8,NULL,'green bench','loaded-supply','',NULL,20.0,24.0,22.0,NULL,1,'','');
INSERT INTO "reading" VALUES(20,1,-1570629749090223104,0,'2026-07-14T14:07:00.000000+00:00','supply_volts',7.4,3,8,NULL,'green bench','loaded-supply','',NULL,20.0,24.0,22.0,NULL,1,'','');
INSERT INTO "reading" VALUES(21,1,5466369109073450840,0,'2026-07-14T14:07:00.000000+00:00','no_load_current',2.21,3,8,NULL,'green bench','loaded-supply','',NULL,20.0,24.0,22.0,NULL,1,'','');
INSERT INTO "reading" VALUES(22,1,7492580375242254755,0,'2026-07-14T14:07:00.000000+00:00','rpm',25150.0,3,8,NULL,'green bench','loaded-supply','',NULL,20.0,24.0,22.0,NULL,1,'','');
INSERT INTO "reading" VALUES(23,1,-5525809898421610480,0,'2026-07-14T14:07:00.000000+00:00','rpm_p2p',50.0,3,8,NULL,'green bench','loaded-supply','',NULL,20.0,24.0,22.0,NULL,1,'','');
INSERT INTO "reading" VALUES(24,1,3863673461788652214,0,'2026-07-14T14:08:00.000000+00:00','timing_a',27.8,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','');
INSERT INTO "reading" VALUES(25,1,-7396691583781636604,0,'2026-07-14T14:08:00.000000+00:00','timing_b',28.4,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','');
INSERT INTO "reading" VALUES(26,1,-2224923469245262670,0,'2026-07-14T14:08:00.000000+00:00','timing_c',28.1,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','');
INSERT INTO "reading" VALUES(27,1,3710669199980356740,0,'2026-07-14T14:09:00.000000+00:00','timing_a',27.8,2,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','');
INSERT INTO "reading" VALUES(28,1,6568863663247243243,0,'2026-07-14T14:09:00.000000+00:00','timing_b',28.4,2,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','');
INSERT INTO "reading" VALUES(29,1,3389987778814561813,0,'2026-07-14T14:09:00.000000+00:00','timing_c',28.1,2,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','');
INSERT INTO "reading" VALUES(30,1,-6516296167813725611,0,'2026-07-14T14:10:00.000000+00:00','noise_background',58.0,1,NULL,NULL,'green bench','','stand',NULL,20.0,24.0,22.0,NULL,1,'','10 cm');
INSERT INTO "reading" VALUES(31,1,-2783199271534352336,0,'2026-07-14T14:10:00.000000+00:00','noise_avg',63.0,1,1,NULL,'green bench','','stand',NULL,20.0,24.0,22.0,NULL,1,'','10 cm');
INSERT INTO "reading" VALUES(32,1,-8884298410795769666,0,'2026-07-14T14:10:00.000000+00:00','noise_avg',73.0,1,4,NULL,'green bench','','stand',NULL,20.0,24.0,22.0,NULL,1,'','10 cm');
INSERT INTO "reading" VALUES(33,1,5945783928613571490,0,'2026-07-14T14:10:00.000000+00:00','noise_avg',81.0,1,8,NULL,'green bench','','stand',NULL,20.0,24.0,22.0,NULL,1,'','10 cm');
INSERT INTO "reading" VALUES(34,1,-2209932540048883067,0,'2026-07-14T14:12:00.000000+00:00','temperature',44.0,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','');
INSERT INTO "reading" VALUES(35,1,-5695891296106204499,0,'2026-07-14T14:17:00.000000+00:00','temperature',36.0,2,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','cooling');
INSERT INTO "reading" VALUES(36,1,-5804331097078114569,0,'2026-07-14T14:20:00.000000+00:00','no_load_current',2.2,1,8,NULL,'green bench','loaded-supply','',NULL,20.0,24.0,22.0,NULL,1,'','timing pull');
INSERT INTO "reading" VALUES(37,1,-3428338349162667358,0,'2026-07-14T14:20:00.000000+00:00','rpm',25100.0,1,8,NULL,'green bench','loaded-supply','',NULL,20.0,24.0,22.0,NULL,1,'','timing pull');
INSERT INTO "reading" VALUES(38,1,-3286784009318115289,0,'2026-07-14T14:22:00.000000+00:00','rest_volts',7.9,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','load: two-blade 42');
INSERT INTO "reading" VALUES(39,1,1154343316760758077,0,'2026-07-14T14:22:00.000000+00:00','load_volts',7.1,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','load: two-blade 42');
INSERT INTO "reading" VALUES(40,1,6676950945921582437,0,'2026-07-14T14:22:00.000000+00:00','load_current',31.0,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','load: two-blade 42');
INSERT INTO "reading" VALUES(41,1,3198077604285494835,0,'2026-07-14T14:22:00.000000+00:00','load_watts',220.0,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','load: two-blade 42');
INSERT INTO "reading" VALUES(42,1,7285126699636064029,0,'2026-07-14T14:22:00.000000+00:00','thrust',900.0,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','load: two-blade 42');
INSERT INTO "reading" VALUES(43,1,6378387728169848837,0,'2026-07-14T14:24:00.000000+00:00','flywheel_torque',1.25663706143591529245e+01,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','600 rpm');
INSERT INTO "reading" VALUES(44,1,5697540132273558667,0,'2026-07-14T14:24:00.000000+00:00','response',5.99999999999999886332e+02,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','600 rpm');
INSERT INTO "reading" VALUES(45,2,6980609689686469481,0,'2026-07-28T14:01:00.000000+00:00','gap',0.6,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,0.0,1,'','');
INSERT INTO "reading" VALUES(46,2,2337589792907952521,0,'2026-07-28T14:01:00.000000+00:00','gap',0.61,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,90.0,1,'','');
INSERT INTO "reading" VALUES(47,2,8777286593151662315,0,'2026-07-28T14:01:00.000000+00:00','gap',0.6,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,180.0,1,'','');
INSERT INTO "reading" VALUES(48,2,574313882667636816,0,'2026-07-28T14:01:00.000000+00:00','gap',0.59,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,270.0,1,'','');
INSERT INTO "reading" VALUES(49,2,-1247000666978964869,0,'2026-07-28T14:02:00.000000+00:00','detent_peak',18.38746875,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','1');
INSERT INTO "reading" VALUES(50,2,-3459387668505340270,0,'2026-07-28T14:02:00.000000+00:00','detent_peak',18.5345685,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','2');
INSERT INTO "reading" VALUES(51,2,-8284785818758951455,0,'2026-07-28T14:02:00.000000+00:00','detent_peak',1.82403689999999976123e+01,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','3');
INSERT INTO "reading" VALUES(52,2,200805979013156271,0,'2026-07-28T14:02:00.000000+00:00','detent_peak',1.84757285999999965042e+01,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','4');
INSERT INTO "reading" VALUES(53,2,-3138654401800827427,0,'2026-07-28T14:02:00.000000+00:00','detent_peak',1.82992088999999964471e+01,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','5');
INSERT INTO "reading" VALUES(54,2,-2318426457495307918,0,'2026-07-28T14:02:00.000000+00:00','detent_peak',18.56398845,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','6');
INSERT INTO "reading" VALUES(55,2,-4529959340624294878,0,'2026-07-28T14:04:00.000000+00:00','rpm',3150.0,1,1,NULL,'green bench','loaded-supply','',NULL,20.0,24.0,22.0,NULL,1,'','first spin');
INSERT INTO "reading" VALUES(56,2,-838843547206237368,0,'2026-07-28T14:05:00.000000+00:00','supply_volts',3.7,1,4,NULL,'green bench','loaded-supply','',NULL,20.0,24.0,22.0,NULL,1,'','');
INSERT INTO "reading" VALUES(57,2,-3222707344598366112,0,'2026-07-28T14:05:00.000000+00:00','no_load_current',1.1,1,4,NULL,'green bench','loaded-supply','',NULL,20.0,24.0,22.0,NULL,1,'','');
INSERT INTO "reading" VALUES(58,2,3384769430088752667,0,'2026-07-28T14:05:00.000000+00:00','rpm',12600.0,1,4,NULL,'green bench','loaded-supply','',NULL,20.0,24.0,22.0,NULL,1,'','');
INSERT INTO "reading" VALUES(59,2,4853655194848073030,0,'2026-07-28T14:05:00.000000+00:00','rpm_p2p',30.0,1,4,NULL,'green bench','loaded-supply','',NULL,20.0,24.0,22.0,NULL,1,'','');
INSERT INTO "reading" VALUES(60,2,6047715907927024905,0,'2026-07-28T14:06:00.000000+00:00','supply_volts',7.4,2,8,NULL,'green bench','loaded-supply','',NULL,20.0,24.0,22.0,NULL,1,'','');
INSERT INTO "reading" VALUES(61,2,-4735328228847148910,0,'2026-07-28T14:06:00.000000+00:00','no_load_current',2.2,2,8,NULL,'green bench','loaded-supply','',NULL,20.0,24.0,22.0,NULL,1,'','');
INSERT INTO "reading" VALUES(62,2,-7587130454608639772,0,'2026-07-28T14:06:00.000000+00:00','rpm',25160.0,2,8,NULL,'green bench','loaded-supply','',NULL,20.0,24.0,22.0,NULL,1,'','');
INSERT INTO "reading" VALUES(63,2,5466557667755771953,0,'2026-07-28T14:06:00.000000+00:00','rpm_p2p',50.0,2,8,NULL,'green bench','loaded-supply','',NULL,20.0,24.0,22.0,NULL,1,'','');
INSERT INTO "reading" VALUES(64,2,5385043831417742983,0,'2026-07-28T14:07:00.000000+00:00','supply_volts',7.4,3,8,NULL,'green bench','loaded-supply','',NULL,20.0,24.0,22.0,NULL,1,'','');
INSERT INTO "reading" VALUES(65,2,-7198381268623245432,0,'2026-07-28T14:07:00.000000+00:00','no_load_current',2.21,3,8,NULL,'green bench','loaded-supply','',NULL,20.0,24.0,22.0,NULL,1,'','');
INSERT INTO "reading" VALUES(66,2,8033927400150401715,0,'2026-07-28T14:07:00.000000+00:00','rpm',25150.0,3,8,NULL,'green bench','loaded-supply','',NULL,20.0,24.0,22.0,NULL,1,'','');
INSERT INTO "reading" VALUES(67,2,7826003026197418584,0,'2026-07-28T14:07:00.000000+00:00','rpm_p2p',50.0,3,8,NULL,'green bench','loaded-supply','',NULL,20.0,24.0,22.0,NULL,1,'','');
INSERT INTO "reading" VALUES(68,2,6172131892037230203,0,'2026-07-28T14:08:00.000000+00:00','timing_a',27.8,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','');
INSERT INTO "reading" VALUES(69,2,3217623667638689107,0,'2026-07-28T14:08:00.000000+00:00','timing_b',28.4,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','');
INSERT INTO "reading" VALUES(70,2,6909777701696193887,0,'2026-07-28T14:08:00.000000+00:00','timing_c',28.1,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','');
INSERT INTO "reading" VALUES(71,2,-5036412809902771833,0,'2026-07-28T14:09:00.000000+00:00','timing_a',27.8,2,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','');
INSERT INTO "reading" VALUES(72,2,7311356630238725079,0,'2026-07-28T14:09:00.000000+00:00','timing_b',28.4,2,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','');
INSERT INTO "reading" VALUES(73,2,2693980500416675190,0,'2026-07-28T14:09:00.000000+00:00','timing_c',28.1,2,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','');
INSERT INTO "reading" VALUES(74,2,5034510656662234554,0,'2026-07-28T14:10:00.000000+00:00','noise_background',58.0,1,NULL,NULL,'green bench','','stand',NULL,20.0,24.0,22.0,NULL,1,'','10 cm');
INSERT INTO "reading" VALUES(75,2,5719298694805691890,0,'2026-07-28T14:10:00.000000+00:00','noise_avg',63.0,1,1,NULL,'green bench','','stand',NULL,20.0,24.0,22.0,NULL,1,'','10 cm');
INSERT INTO "reading" VALUES(76,2,7972774488437480907,0,'2026-07-28T14:10:00.000000+00:00','noise_avg',73.0,1,4,NULL,'green bench','','stand',NULL,20.0,24.0,22.0,NULL,1,'','10 cm');
INSERT INTO "reading" VALUES(77,2,-4198854776388238150,0,'2026-07-28T14:10:00.000000+00:00','noise_avg',81.0,1,8,NULL,'green bench','','stand',NULL,20.0,24.0,22.0,NULL,1,'','10 cm');
INSERT INTO "reading" VALUES(78,2,-8159038123472593277,0,'2026-07-28T14:12:00.000000+00:00','temperature',44.0,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','');
INSERT INTO "reading" VALUES(79,2,-4387577748554754987,0,'2026-07-28T14:17:00.000000+00:00','temperature',36.0,2,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','cooling');
INSERT INTO "reading" VALUES(80,2,-274990642403098292,0,'2026-07-28T14:20:00.000000+00:00','no_load_current',2.2,1,8,NULL,'green bench','loaded-supply','',NULL,20.0,24.0,22.0,NULL,1,'','timing pull');
INSERT INTO "reading" VALUES(81,2,-2408399083294005176,0,'2026-07-28T14:20:00.000000+00:00','rpm',25100.0,1,8,NULL,'green bench','loaded-supply','',NULL,20.0,24.0,22.0,NULL,1,'','timing pull');
INSERT INTO "reading" VALUES(82,2,-8155143725379132798,0,'2026-07-28T14:22:00.000000+00:00','rest_volts',7.9,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','load: two-blade 42');
INSERT INTO "reading" VALUES(83,2,-6540687800759695783,0,'2026-07-28T14:22:00.000000+00:00','load_volts',7.1,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','load: two-blade 42');
INSERT INTO "reading" VALUES(84,2,4445169615870708861,0,'2026-07-28T14:22:00.000000+00:00','load_current',31.0,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','load: two-blade 42');
INSERT INTO "reading" VALUES(85,2,-2646138837104260866,0,'2026-07-28T14:22:00.000000+00:00','load_watts',220.0,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','load: two-blade 42');
INSERT INTO "reading" VALUES(86,2,421151303931698103,0,'2026-07-28T14:22:00.000000+00:00','thrust',900.0,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','load: two-blade 42');
INSERT INTO "reading" VALUES(87,2,-5041794716107277129,0,'2026-07-28T14:24:00.000000+00:00','flywheel_torque',1.25663706143591529245e+01,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','600 rpm');
INSERT INTO "reading" VALUES(88,2,7798506346029022604,0,'2026-07-28T14:24:00.000000+00:00','response',5.99999999999999886332e+02,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','600 rpm');
INSERT INTO "reading" VALUES(89,3,2590854503876805455,0,'2026-07-14T14:01:00.000000+00:00','gap',0.6,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,0.0,1,'','');
INSERT INTO "reading" VALUES(90,3,-364958327706473248,0,'2026-07-14T14:01:00.000000+00:00','gap',0.61,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,90.0,1,'','');
INSERT INTO "reading" VALUES(91,3,8334825695123240101,0,'2026-07-14T14:01:00.000000+00:00','gap',0.6,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,180.0,1,'','');
INSERT INTO "reading" VALUES(92,3,-490426301100132122,0,'2026-07-14T14:01:00.000000+00:00','gap',0.59,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,270.0,1,'','');
INSERT INTO "reading" VALUES(93,3,-417950478259589422,0,'2026-07-14T14:02:00.000000+00:00','detent_peak',18.38746875,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','1');
INSERT INTO "reading" VALUES(94,3,747119321186468421,0,'2026-07-14T14:02:00.000000+00:00','detent_peak',18.5345685,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','2');
INSERT INTO "reading" VALUES(95,3,-3823772238209050261,0,'2026-07-14T14:02:00.000000+00:00','detent_peak',1.82403689999999976123e+01,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','3');
INSERT INTO "reading" VALUES(96,3,-2453422827904556495,0,'2026-07-14T14:02:00.000000+00:00','detent_peak',1.84757285999999965042e+01,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','4');
INSERT INTO "reading" VALUES(97,3,3967177604532494683,0,'2026-07-14T14:02:00.000000+00:00','detent_peak',1.82992088999999964471e+01,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','5');
INSERT INTO "reading" VALUES(98,3,-998721905617164157,0,'2026-07-14T14:02:00.000000+00:00','detent_peak',18.56398845,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','6');
INSERT INTO "reading" VALUES(99,3,-4623832353427761348,0,'2026-07-14T14:04:00.000000+00:00','rpm',3150.0,1,1,NULL,'green bench','loaded-supply','',NULL,20.0,24.0,22.0,NULL,1,'','first spin');
INSERT INTO "reading" VALUES(100,3,-9001717372486363888,0,'2026-07-14T14:05:00.000000+00:00','supply_volts',3.7,1,4,NULL,'green bench','loaded-supply','',NULL,20.0,24.0,22.0,NULL,1,'','');
INSERT INTO "reading" VALUES(101,3,5596807313315378360,0,'2026-07-14T14:05:00.000000+00:00','no_load_current',1.1,1,4,NULL,'green bench','loaded-supply','',NULL,20.0,24.0,22.0,NULL,1,'','');
INSERT INTO "reading" VALUES(102,3,-3541957994110461195,0,'2026-07-14T14:05:00.000000+00:00','rpm',12600.0,1,4,NULL,'green bench','loaded-supply','',NULL,20.0,24.0,22.0,NULL,1,'','');
INSERT INTO "reading" VALUES(103,3,301063157954489235,0,'2026-07-14T14:05:00.000000+00:00','rpm_p2p',30.0,1,4,NULL,'green bench','loaded-supply','',NULL,20.0,24.0,22.0,NULL,1,'','');
INSERT INTO "reading" VALUES(104,3,-3188623128871064471,0,'2026-07-14T14:06:00.000000+00:00','supply_volts',7.4,2,8,NULL,'green bench','loaded-supply','',NULL,20.0,24.0,22.0,NULL,1,'','');
INSERT INTO "reading" VALUES(105,3,7606255952889052010,0,'2026-07-14T14:06:00.000000+00:00','no_load_current',2.2,2,8,NULL,'green bench','loaded-supply','',NULL,20.0,24.0,22.0,NULL,1,'','');
INSERT INTO "reading" VALUES(106,3,6691473197059110543,0,'2026-07-14T14:06:00.000000+00:00','rpm',25160.0,2,8,NULL,'green bench','loaded-supply','',NULL,20.0,24.0,22.0,NULL,1,'','');
INSERT INTO "reading" VALUES(107,3,850211969678078480,0,'2026-07-14T14:06:00.000000+00:00','rpm_p2p',50.0,2,8,NULL,'green bench','loaded-supply','',NULL,20.0,24.0,22.0,NULL,1,'','');
INSERT INTO "reading" VALUES(108,3,-1570629749090223104,0,'2026-07-14T14:07:00.000000+00:00','supply_volts',7.4,3,8,NULL,'green bench','loaded-supply','',NULL,20.0,24.0,22.0,NULL,1,'','');
INSERT INTO "reading" VALUES(109,3,5466369109073450840,0,'2026-07-14T14:07:00.000000+00:00','no_load_current',2.21,3,8,NULL,'green bench','loaded-supply','',NULL,20.0,24.0,22.0,NULL,1,'','');
INSERT INTO "reading" VALUES(110,3,7492580375242254755,0,'2026-07-14T14:07:00.000000+00:00','rpm',25150.0,3,8,NULL,'green bench','loaded-supply','',NULL,20.0,24.0,22.0,NULL,1,'','');
INSERT INTO "reading" VALUES(111,3,-5525809898421610480,0,'2026-07-14T14:07:00.000000+00:00','rpm_p2p',50.0,3,8,NULL,'green bench','loaded-supply','',NULL,20.0,24.0,22.0,NULL,1,'','');
INSERT INTO "reading" VALUES(112,3,3863673461788652214,0,'2026-07-14T14:08:00.000000+00:00','timing_a',27.8,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','');
INSERT INTO "reading" VALUES(113,3,-7396691583781636604,0,'2026-07-14T14:08:00.000000+00:00','timing_b',28.4,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','');
INSERT INTO "reading" VALUES(114,3,-2224923469245262670,0,'2026-07-14T14:08:00.000000+00:00','timing_c',28.1,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','');
INSERT INTO "reading" VALUES(115,3,3710669199980356740,0,'2026-07-14T14:09:00.000000+00:00','timing_a',27.8,2,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','');
INSERT INTO "reading" VALUES(116,3,6568863663247243243,0,'2026-07-14T14:09:00.000000+00:00','timing_b',28.4,2,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','');
INSERT INTO "reading" VALUES(117,3,3389987778814561813,0,'2026-07-14T14:09:00.000000+00:00','timing_c',28.1,2,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','');
INSERT INTO "reading" VALUES(118,3,-6516296167813725611,0,'2026-07-14T14:10:00.000000+00:00','noise_background',58.0,1,NULL,NULL,'green bench','','stand',NULL,20.0,24.0,22.0,NULL,1,'','10 cm');
INSERT INTO "reading" VALUES(119,3,-2783199271534352336,0,'2026-07-14T14:10:00.000000+00:00','noise_avg',63.0,1,1,NULL,'green bench','','stand',NULL,20.0,24.0,22.0,NULL,1,'','10 cm');
INSERT INTO "reading" VALUES(120,3,-8884298410795769666,0,'2026-07-14T14:10:00.000000+00:00','noise_avg',73.0,1,4,NULL,'green bench','','stand',NULL,20.0,24.0,22.0,NULL,1,'','10 cm');
INSERT INTO "reading" VALUES(121,3,5945783928613571490,0,'2026-07-14T14:10:00.000000+00:00','noise_avg',81.0,1,8,NULL,'green bench','','stand',NULL,20.0,24.0,22.0,NULL,1,'','10 cm');
INSERT INTO "reading" VALUES(122,3,-2209932540048883067,0,'2026-07-14T14:12:00.000000+00:00','temperature',44.0,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','');
INSERT INTO "reading" VALUES(123,3,-5695891296106204499,0,'2026-07-14T14:17:00.000000+00:00','temperature',36.0,2,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','cooling');
INSERT INTO "reading" VALUES(124,3,-5804331097078114569,0,'2026-07-14T14:20:00.000000+00:00','no_load_current',2.2,1,8,NULL,'green bench','loaded-supply','',NULL,20.0,24.0,22.0,NULL,1,'','timing pull');
INSERT INTO "reading" VALUES(125,3,-3428338349162667358,0,'2026-07-14T14:20:00.000000+00:00','rpm',25100.0,1,8,NULL,'green bench','loaded-supply','',NULL,20.0,24.0,22.0,NULL,1,'','timing pull');
INSERT INTO "reading" VALUES(126,3,-3286784009318115289,0,'2026-07-14T14:22:00.000000+00:00','rest_volts',7.9,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','load: two-blade 42');
INSERT INTO "reading" VALUES(127,3,1154343316760758077,0,'2026-07-14T14:22:00.000000+00:00','load_volts',7.1,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','load: two-blade 42');
INSERT INTO "reading" VALUES(128,3,6676950945921582437,0,'2026-07-14T14:22:00.000000+00:00','load_current',31.0,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','load: two-blade 42');
INSERT INTO "reading" VALUES(129,3,3198077604285494835,0,'2026-07-14T14:22:00.000000+00:00','load_watts',220.0,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','load: two-blade 42');
INSERT INTO "reading" VALUES(130,3,7285126699636064029,0,'2026-07-14T14:22:00.000000+00:00','thrust',900.0,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','load: two-blade 42');
INSERT INTO "reading" VALUES(131,3,6378387728169848837,0,'2026-07-14T14:24:00.000000+00:00','flywheel_torque',1.25663706143591529245e+01,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','600 rpm');
INSERT INTO "reading" VALUES(132,3,5697540132273558667,0,'2026-07-14T14:24:00.000000+00:00','response',5.99999999999999886332e+02,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','600 rpm');
INSERT INTO "reading" VALUES(133,4,6980609689686469481,0,'2026-07-28T14:01:00.000000+00:00','gap',0.6,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,0.0,1,'','');
INSERT INTO "reading" VALUES(134,4,2337589792907952521,0,'2026-07-28T14:01:00.000000+00:00','gap',0.61,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,90.0,1,'','');
INSERT INTO "reading" VALUES(135,4,8777286593151662315,0,'2026-07-28T14:01:00.000000+00:00','gap',0.6,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,180.0,1,'','');
INSERT INTO "reading" VALUES(136,4,574313882667636816,0,'2026-07-28T14:01:00.000000+00:00','gap',0.59,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,270.0,1,'','');
INSERT INTO "reading" VALUES(137,4,-1247000666978964869,0,'2026-07-28T14:02:00.000000+00:00','detent_peak',18.38746875,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','1');
INSERT INTO "reading" VALUES(138,4,-3459387668505340270,0,'2026-07-28T14:02:00.000000+00:00','detent_peak',18.5345685,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','2');
INSERT INTO "reading" VALUES(139,4,-8284785818758951455,0,'2026-07-28T14:02:00.000000+00:00','detent_peak',1.82403689999999976123e+01,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','3');
INSERT INTO "reading" VALUES(140,4,200805979013156271,0,'2026-07-28T14:02:00.000000+00:00','detent_peak',1.84757285999999965042e+01,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','4');
INSERT INTO "reading" VALUES(141,4,-3138654401800827427,0,'2026-07-28T14:02:00.000000+00:00','detent_peak',1.82992088999999964471e+01,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','5');
INSERT INTO "reading" VALUES(142,4,-2318426457495307918,0,'2026-07-28T14:02:00.000000+00:00','detent_peak',18.56398845,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','6');
INSERT INTO "reading" VALUES(143,4,-4529959340624294878,0,'2026-07-28T14:04:00.000000+00:00','rpm',3150.0,1,1,NULL,'green bench','loaded-supply','',NULL,20.0,24.0,22.0,NULL,1,'','first spin');
INSERT INTO "reading" VALUES(144,4,-838843547206237368,0,'2026-07-28T14:05:00.000000+00:00','supply_volts',3.7,1,4,NULL,'green bench','loaded-supply','',NULL,20.0,24.0,22.0,NULL,1,'','');
INSERT INTO "reading" VALUES(145,4,-3222707344598366112,0,'2026-07-28T14:05:00.000000+00:00','no_load_current',1.1,1,4,NULL,'green bench','loaded-supply','',NULL,20.0,24.0,22.0,NULL,1,'','');
INSERT INTO "reading" VALUES(146,4,3384769430088752667,0,'2026-07-28T14:05:00.000000+00:00','rpm',12600.0,1,4,NULL,'green bench','loaded-supply','',NULL,20.0,24.0,22.0,NULL,1,'','');
INSERT INTO "reading" VALUES(147,4,4853655194848073030,0,'2026-07-28T14:05:00.000000+00:00','rpm_p2p',30.0,1,4,NULL,'green bench','loaded-supply','',NULL,20.0,24.0,22.0,NULL,1,'','');
INSERT INTO "reading" VALUES(148,4,6047715907927024905,0,'2026-07-28T14:06:00.000000+00:00','supply_volts',7.4,2,8,NULL,'green bench','loaded-supply','',NULL,20.0,24.0,22.0,NULL,1,'','');
INSERT INTO "reading" VALUES(149,4,-4735328228847148910,0,'2026-07-28T14:06:00.000000+00:00','no_load_current',2.2,2,8,NULL,'green bench','loaded-supply','',NULL,20.0,24.0,22.0,NULL,1,'','');
INSERT INTO "reading" VALUES(150,4,-7587130454608639772,0,'2026-07-28T14:06:00.000000+00:00','rpm',25160.0,2,8,NULL,'green bench','loaded-supply','',NULL,20.0,24.0,22.0,NULL,1,'','');
INSERT INTO "reading" VALUES(151,4,5466557667755771953,0,'2026-07-28T14:06:00.000000+00:00','rpm_p2p',50.0,2,8,NULL,'green bench','loaded-supply','',NULL,20.0,24.0,22.0,NULL,1,'','');
INSERT INTO "reading" VALUES(152,4,5385043831417742983,0,'2026-07-28T14:07:00.000000+00:00','supply_volts',7.4,3,8,NULL,'green bench','loaded-supply','',NULL,20.0,24.0,22.0,NULL,1,'','');
INSERT INTO "reading" VALUES(153,4,-7198381268623245432,0,'2026-07-28T14:07:00.000000+00:00','no_load_current',2.21,3,8,NULL,'green bench','loaded-supply','',NULL,20.0,24.0,22.0,NULL,1,'','');
INSERT INTO "reading" VALUES(154,4,8033927400150401715,0,'2026-07-28T14:07:00.000000+00:00','rpm',25150.0,3,8,NULL,'green bench','loaded-supply','',NULL,20.0,24.0,22.0,NULL,1,'','');
INSERT INTO "reading" VALUES(155,4,7826003026197418584,0,'2026-07-28T14:07:00.000000+00:00','rpm_p2p',50.0,3,8,NULL,'green bench','loaded-supply','',NULL,20.0,24.0,22.0,NULL,1,'','');
INSERT INTO "reading" VALUES(156,4,6172131892037230203,0,'2026-07-28T14:08:00.000000+00:00','timing_a',27.8,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','');
INSERT INTO "reading" VALUES(157,4,3217623667638689107,0,'2026-07-28T14:08:00.000000+00:00','timing_b',28.4,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','');
INSERT INTO "reading" VALUES(158,4,6909777701696193887,0,'2026-07-28T14:08:00.000000+00:00','timing_c',28.1,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','');
INSERT INTO "reading" VALUES(159,4,-5036412809902771833,0,'2026-07-28T14:09:00.000000+00:00','timing_a',27.8,2,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','');
INSERT INTO "reading" VALUES(160,4,7311356630238725079,0,'2026-07-28T14:09:00.000000+00:00','timing_b',28.4,2,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','');
INSERT INTO "reading" VALUES(161,4,2693980500416675190,0,'2026-07-28T14:09:00.000000+00:00','timing_c',28.1,2,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','');
INSERT INTO "reading" VALUES(162,4,5034510656662234554,0,'2026-07-28T14:10:00.000000+00:00','noise_background',58.0,1,NULL,NULL,'green bench','','stand',NULL,20.0,24.0,22.0,NULL,1,'','10 cm');
INSERT INTO "reading" VALUES(163,4,5719298694805691890,0,'2026-07-28T14:10:00.000000+00:00','noise_avg',63.0,1,1,NULL,'green bench','','stand',NULL,20.0,24.0,22.0,NULL,1,'','10 cm');
INSERT INTO "reading" VALUES(164,4,7972774488437480907,0,'2026-07-28T14:10:00.000000+00:00','noise_avg',73.0,1,4,NULL,'green bench','','stand',NULL,20.0,24.0,22.0,NULL,1,'','10 cm');
INSERT INTO "reading" VALUES(165,4,-4198854776388238150,0,'2026-07-28T14:10:00.000000+00:00','noise_avg',81.0,1,8,NULL,'green bench','','stand',NULL,20.0,24.0,22.0,NULL,1,'','10 cm');
INSERT INTO "reading" VALUES(166,4,-8159038123472593277,0,'2026-07-28T14:12:00.000000+00:00','temperature',44.0,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','');
INSERT INTO "reading" VALUES(167,4,-4387577748554754987,0,'2026-07-28T14:17:00.000000+00:00','temperature',36.0,2,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','cooling');
INSERT INTO "reading" VALUES(168,4,-274990642403098292,0,'2026-07-28T14:20:00.000000+00:00','no_load_current',2.2,1,8,NULL,'green bench','loaded-supply','',NULL,20.0,24.0,22.0,NULL,1,'','timing pull');
INSERT INTO "reading" VALUES(169,4,-2408399083294005176,0,'2026-07-28T14:20:00.000000+00:00','rpm',25100.0,1,8,NULL,'green bench','loaded-supply','',NULL,20.0,24.0,22.0,NULL,1,'','timing pull');
INSERT INTO "reading" VALUES(170,4,-8155143725379132798,0,'2026-07-28T14:22:00.000000+00:00','rest_volts',7.9,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','load: two-blade 42');
INSERT INTO "reading" VALUES(171,4,-6540687800759695783,0,'2026-07-28T14:22:00.000000+00:00','load_volts',7.1,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','load: two-blade 42');
INSERT INTO "reading" VALUES(172,4,4445169615870708861,0,'2026-07-28T14:22:00.000000+00:00','load_current',31.0,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','load: two-blade 42');
INSERT INTO "reading" VALUES(173,4,-2646138837104260866,0,'2026-07-28T14:22:00.000000+00:00','load_watts',220.0,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','load: two-blade 42');
INSERT INTO "reading" VALUES(174,4,421151303931698103,0,'2026-07-28T14:22:00.000000+00:00','thrust',900.0,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','load: two-blade 42');
INSERT INTO "reading" VALUES(175,4,-5041794716107277129,0,'2026-07-28T14:24:00.000000+00:00','flywheel_torque',1.25663706143591529245e+01,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','600 rpm');
INSERT INTO "reading" VALUES(176,4,7798506346029022604,0,'2026-07-28T14:24:00.000000+00:00','response',5.99999999999999886332e+02,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','600 rpm');
INSERT INTO "reading" VALUES(177,5,8913733151172010132,0,'2026-09-07T14:01:00.000000+00:00','gap',0.6,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,0.0,1,'','');
INSERT INTO "reading" VALUES(178,5,4093022498870961943,0,'2026-09-07T14:01:00.000000+00:00','gap',0.61,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,90.0,1,'','');
INSERT INTO "reading" VALUES(179,5,8462624482433126321,0,'2026-09-07T14:01:00.000000+00:00','gap',0.6,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,180.0,1,'','');
INSERT INTO "reading" VALUES(180,5,8634434427587657610,0,'2026-09-07T14:01:00.000000+00:00','gap',0.59,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,270.0,1,'','');
INSERT INTO "reading" VALUES(181,5,-4275315434305924742,0,'2026-09-07T14:02:00.000000+00:00','detent_peak',18.38746875,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','1');
INSERT INTO "reading" VALUES(182,5,3091985327003586899,0,'2026-09-07T14:02:00.000000+00:00','detent_peak',18.5345685,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','2');
INSERT INTO "reading" VALUES(183,5,3445320475821510742,0,'2026-09-07T14:02:00.000000+00:00','detent_peak',1.82403689999999976123e+01,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','3');
INSERT INTO "reading" VALUES(184,5,6301471456957885223,0,'2026-09-07T14:02:00.000000+00:00','detent_peak',1.84757285999999965042e+01,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','4');
INSERT INTO "reading" VALUES(185,5,-8966755672413938428,0,'2026-09-07T14:02:00.000000+00:00','detent_peak',1.82992088999999964471e+01,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','5');
INSERT INTO "reading" VALUES(186,5,-4613709546406064165,0,'2026-09-07T14:02:00.000000+00:00','detent_peak',18.56398845,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','6');
INSERT INTO "reading" VALUES(187,5,-2644525295303051275,0,'2026-09-07T14:04:00.000000+00:00','rpm',3150.0,1,1,NULL,'green bench','loaded-supply','',NULL,20.0,24.0,22.0,NULL,1,'','first spin');
INSERT INTO "reading" VALUES(188,5,-6905040334696897693,0,'2026-09-07T14:05:00.000000+00:00','supply_volts',3.7,1,4,NULL,'green bench','loaded-supply','',NULL,20.0,24.0,22.0,NULL,1,'','');
INSERT INTO "reading" VALUES(189,5,-4041932049688506863,0,'2026-09-07T14:05:00.000000+00:00','no_load_current',1.1,1,4,NULL,'green bench','loaded-supply','',NULL,20.0,24.0,22.0,NULL,1,'','');
INSERT INTO "reading" VALUES(190,5,2799967250331035419,0,'2026-09-07T14:05:00.000000+00:00','rpm',12600.0,1,4,NULL,'green bench','loaded-supply','',NULL,20.0,24.0,22.0,NULL,1,'','');
INSERT INTO "reading" VALUES(191,5,-971783823825768336,0,'2026-09-07T14:05:00.000000+00:00','rpm_p2p',30.0,1,4,NULL,'green bench','loaded-supply','',NULL,20.0,24.0,22.0,NULL,1,'','');
INSERT INTO "reading" VALUES(192,5,-5695103944057105096,0,'2026-09-07T14:06:00.000000+00:00','supply_volts',7.4,2,8,NULL,'green bench','loaded-supply','',NULL,20.0,24.0,22.0,NULL,1,'','');
INSERT INTO "reading" VALUES(193,5,1465018219247072196,0,'2026-09-07T14:06:00.000000+00:00','no_load_current',3.08,2,8,NULL,'green bench','loaded-supply','',NULL,20.0,24.0,22.0,NULL,1,'','');
INSERT INTO "reading" VALUES(194,5,-7409836822138762294,0,'2026-09-07T14:06:00.000000+00:00','rpm',25160.0,2,8,NULL,'green bench','loaded-supply','',NULL,20.0,24.0,22.0,NULL,1,'','');
INSERT INTO "reading" VALUES(195,5,-7026858668012894794,0,'2026-09-07T14:06:00.000000+00:00','rpm_p2p',300.0,2,8,NULL,'green bench','loaded-supply','',NULL,20.0,24.0,22.0,NULL,1,'','');
INSERT INTO "reading" VALUES(196,5,-1978861989269701602,0,'2026-09-07T14:07:00.000000+00:00','supply_volts',7.4,3,8,NULL,'green bench','loaded-supply','',NULL,20.0,24.0,22.0,NULL,1,'','');
INSERT INTO "reading" VALUES(197,5,-4565883403017481164,0,'2026-09-07T14:07:00.000000+00:00','no_load_current',3.09,3,8,NULL,'green bench','loaded-supply','',NULL,20.0,24.0,22.0,NULL,1,'','');
INSERT INTO "reading" VALUES(198,5,-7888916154239856322,0,'2026-09-07T14:07:00.000000+00:00','rpm',25150.0,3,8,NULL,'green bench','loaded-supply','',NULL,20.0,24.0,22.0,NULL,1,'','');
INSERT INTO "reading" VALUES(199,5,5523640516370301458,0,'2026-09-07T14:07:00.000000+00:00','rpm_p2p',300.0,3,8,NULL,'green bench','loaded-supply','',NULL,20.0,24.0,22.0,NULL,1,'','');
INSERT INTO "reading" VALUES(200,5,7205807266996739030,0,'2026-09-07T14:08:00.000000+00:00','timing_a',27.8,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','');
INSERT INTO "reading" VALUES(201,5,-5039514580702320243,0,'2026-09-07T14:08:00.000000+00:00','timing_b',28.4,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','');
INSERT INTO "reading" VALUES(202,5,6436077692151752637,0,'2026-09-07T14:08:00.000000+00:00','timing_c',28.1,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','');
INSERT INTO "reading" VALUES(203,5,-2427472673382400586,0,'2026-09-07T14:09:00.000000+00:00','timing_a',27.8,2,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','');
INSERT INTO "reading" VALUES(204,5,-1276852970032375605,0,'2026-09-07T14:09:00.000000+00:00','timing_b',28.4,2,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','');
INSERT INTO "reading" VALUES(205,5,641435180090009652,0,'2026-09-07T14:09:00.000000+00:00','timing_c',28.1,2,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','');
INSERT INTO "reading" VALUES(206,5,-3091949470393988721,0,'2026-09-07T14:10:00.000000+00:00','noise_background',58.0,1,NULL,NULL,'green bench','','stand',NULL,20.0,24.0,22.0,NULL,1,'','10 cm');
INSERT INTO "reading" VALUES(207,5,-2716047131203267511,0,'2026-09-07T14:10:00.000000+00:00','noise_avg',70.0,1,1,NULL,'green bench','','stand',NULL,20.0,24.0,22.0,NULL,1,'','10 cm');
INSERT INTO "reading" VALUES(208,5,-9033844734198991627,0,'2026-09-07T14:10:00.000000+00:00','noise_avg',80.0,1,4,NULL,'green bench','','stand',NULL,20.0,24.0,22.0,NULL,1,'','10 cm');
INSERT INTO "reading" VALUES(209,5,-4394185929703602334,0,'2026-09-07T14:10:00.000000+00:00','noise_avg',89.0,1,8,NULL,'green bench','','stand',NULL,20.0,24.0,22.0,NULL,1,'','10 cm');
INSERT INTO "reading" VALUES(210,5,-6397211609654458774,0,'2026-09-07T14:12:00.000000+00:00','temperature',53.0,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','');
INSERT INTO "reading" VALUES(211,5,-2100220210003533135,0,'2026-09-07T14:17:00.000000+00:00','temperature',36.0,2,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','cooling');
INSERT INTO "reading" VALUES(212,5,-1428795245004141566,0,'2026-09-07T14:20:00.000000+00:00','no_load_current',2.2,1,8,NULL,'green bench','loaded-supply','',NULL,20.0,24.0,22.0,NULL,1,'','timing pull');
INSERT INTO "reading" VALUES(213,5,-970829239712761754,0,'2026-09-07T14:20:00.000000+00:00','rpm',25100.0,1,8,NULL,'green bench','loaded-supply','',NULL,20.0,24.0,22.0,NULL,1,'','timing pull');
INSERT INTO "reading" VALUES(214,5,9175624551720723219,0,'2026-09-07T14:22:00.000000+00:00','rest_volts',7.9,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','load: two-blade 42');
INSERT INTO "reading" VALUES(215,5,-8568712010507737445,0,'2026-09-07T14:22:00.000000+00:00','load_volts',7.1,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','load: two-blade 42');
INSERT INTO "reading" VALUES(216,5,-1938948724272661164,0,'2026-09-07T14:22:00.000000+00:00','load_current',31.0,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','load: two-blade 42');
INSERT INTO "reading" VALUES(217,5,-6556296385002751495,0,'2026-09-07T14:22:00.000000+00:00','load_watts',220.0,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','load: two-blade 42');
INSERT INTO "reading" VALUES(218,5,-3873396913483760173,0,'2026-09-07T14:22:00.000000+00:00','thrust',900.0,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','load: two-blade 42');
INSERT INTO "reading" VALUES(219,5,-669001009875193331,0,'2026-09-07T14:24:00.000000+00:00','flywheel_torque',1.25663706143591529245e+01,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','600 rpm');
INSERT INTO "reading" VALUES(220,5,-5056067806181506807,0,'2026-09-07T14:24:00.000000+00:00','response',5.99999999999999886332e+02,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','600 rpm');
INSERT INTO "reading" VALUES(221,6,287699861716866265,0,'2026-09-08T14:01:00.000000+00:00','gap',0.6,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,0.0,1,'','');
INSERT INTO "reading" VALUES(222,6,-8905121161685328072,0,'2026-09-08T14:01:00.000000+00:00','gap',0.61,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,90.0,1,'','');
INSERT INTO "reading" VALUES(223,6,3634905229995944615,0,'2026-09-08T14:01:00.000000+00:00','gap',0.6,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,180.0,1,'','');
INSERT INTO "reading" VALUES(224,6,-7422855863506993784,0,'2026-09-08T14:01:00.000000+00:00','gap',0.59,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,270.0,1,'','');
INSERT INTO "reading" VALUES(225,6,-2062390745146593832,0,'2026-09-08T14:02:00.000000+00:00','detent_peak',18.38746875,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','1');
INSERT INTO "reading" VALUES(226,6,-4409286382189308624,0,'2026-09-08T14:02:00.000000+00:00','detent_peak',18.5345685,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','2');
INSERT INTO "reading" VALUES(227,6,5370934212911609107,0,'2026-09-08T14:02:00.000000+00:00','detent_peak',1.82403689999999976123e+01,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','3');
INSERT INTO "reading" VALUES(228,6,1148607136541472476,0,'2026-09-08T14:02:00.000000+00:00','detent_peak',1.84757285999999965042e+01,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','4');
INSERT INTO "reading" VALUES(229,6,8117274185002436687,0,'2026-09-08T14:02:00.000000+00:00','detent_peak',1.82992088999999964471e+01,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','5');
INSERT INTO "reading" VALUES(230,6,3987521719614238961,0,'2026-09-08T14:02:00.000000+00:00','detent_peak',18.56398845,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','6');
INSERT INTO "reading" VALUES(231,6,-4605535032751756954,0,'2026-09-08T14:04:00.000000+00:00','rpm',3150.0,1,1,NULL,'green bench','loaded-supply','',NULL,20.0,24.0,22.0,NULL,1,'','first spin');
INSERT INTO "reading" VALUES(232,6,-51107107710629899,0,'2026-09-08T14:05:00.000000+00:00','supply_volts',3.7,1,4,NULL,'green bench','loaded-supply','',NULL,20.0,24.0,22.0,NULL,1,'','');
INSERT INTO "reading" VALUES(233,6,463983608011391185,0,'2026-09-08T14:05:00.000000+00:00','no_load_current',1.1,1,4,NULL,'green bench','loaded-supply','',NULL,20.0,24.0,22.0,NULL,1,'','');
INSERT INTO "reading" VALUES(234,6,4324532457486950013,0,'2026-09-08T14:05:00.000000+00:00','rpm',12600.0,1,4,NULL,'green bench','loaded-supply','',NULL,20.0,24.0,22.0,NULL,1,'','');
INSERT INTO "reading" VALUES(235,6,-5771500262435239525,0,'2026-09-08T14:05:00.000000+00:00','rpm_p2p',30.0,1,4,NULL,'green bench','loaded-supply','',NULL,20.0,24.0,22.0,NULL,1,'','');
INSERT INTO "reading" VALUES(236,6,8117855517436070917,0,'2026-09-08T14:06:00.000000+00:00','supply_volts',7.4,2,8,NULL,'green bench','loaded-supply','',NULL,20.0,24.0,22.0,NULL,1,'','');
INSERT INTO "reading" VALUES(237,6,7329242399228344630,0,'2026-09-08T14:06:00.000000+00:00','no_load_current',2.2,2,8,NULL,'green bench','loaded-supply','',NULL,20.0,24.0,22.0,NULL,1,'','');
INSERT INTO "reading" VALUES(238,6,1894992213047285329,0,'2026-09-08T14:06:00.000000+00:00','rpm',25160.0,2,8,NULL,'green bench','loaded-supply','',NULL,20.0,24.0,22.0,NULL,1,'','');
INSERT INTO "reading" VALUES(239,6,-4567336245524215413,0,'2026-09-08T14:06:00.000000+00:00','rpm_p2p',50.0,2,8,NULL,'green bench','loaded-supply','',NULL,20.0,24.0,22.0,NULL,1,'','');
INSERT INTO "reading" VALUES(240,6,-6272041693372290842,0,'2026-09-08T14:07:00.000000+00:00','supply_volts',7.4,3,8,NULL,'green bench','loaded-supply','',NULL,20.0,24.0,22.0,NULL,0,'clip slipped','');
INSERT INTO "reading" VALUES(241,6,-2359798439743227018,0,'2026-09-08T14:07:00.000000+00:00','no_load_current',2.21,3,8,NULL,'green bench','loaded-supply','',NULL,20.0,24.0,22.0,NULL,0,'clip slipped','');
INSERT INTO "reading" VALUES(242,6,-5935085699672901139,0,'2026-09-08T14:07:00.000000+00:00','rpm',25150.0,3,8,NULL,'green bench','loaded-supply','',NULL,20.0,24.0,22.0,NULL,0,'clip slipped','');
INSERT INTO "reading" VALUES(243,6,4269017281978439649,0,'2026-09-08T14:07:00.000000+00:00','rpm_p2p',50.0,3,8,NULL,'green bench','loaded-supply','',NULL,20.0,24.0,22.0,NULL,0,'clip slipped','');
INSERT INTO "reading" VALUES(244,6,792468016142108363,0,'2026-09-08T14:08:00.000000+00:00','timing_a',27.8,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','');
INSERT INTO "reading" VALUES(245,6,-6109581991026946471,0,'2026-09-08T14:08:00.000000+00:00','timing_b',28.4,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','');
INSERT INTO "reading" VALUES(246,6,5639215669697582026,0,'2026-09-08T14:08:00.000000+00:00','timing_c',28.1,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','');
INSERT INTO "reading" VALUES(247,6,-235091921456221012,0,'2026-09-08T14:09:00.000000+00:00','timing_a',27.8,2,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','');
INSERT INTO "reading" VALUES(248,6,8181170713518258097,0,'2026-09-08T14:09:00.000000+00:00','timing_b',28.4,2,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','');
INSERT INTO "reading" VALUES(249,6,2308676817322016519,0,'2026-09-08T14:09:00.000000+00:00','timing_c',28.1,2,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','');
INSERT INTO "reading" VALUES(250,6,3641357007482900628,0,'2026-09-08T14:10:00.000000+00:00','noise_background',58.0,1,NULL,NULL,'green bench','','stand',NULL,20.0,24.0,22.0,NULL,1,'','10 cm');
INSERT INTO "reading" VALUES(251,6,-7613397943836782645,0,'2026-09-08T14:10:00.000000+00:00','noise_avg',63.0,1,1,NULL,'green bench','','stand',NULL,20.0,24.0,22.0,NULL,1,'','10 cm');
INSERT INTO "reading" VALUES(252,6,-4884309460328245366,0,'2026-09-08T14:10:00.000000+00:00','noise_avg',73.0,1,4,NULL,'green bench','','stand',NULL,20.0,24.0,22.0,NULL,1,'','10 cm');
INSERT INTO "reading" VALUES(253,6,5299374618122427717,0,'2026-09-08T14:10:00.000000+00:00','noise_avg',81.0,1,8,NULL,'green bench','','stand',NULL,20.0,24.0,22.0,NULL,1,'','10 cm');
INSERT INTO "reading" VALUES(254,6,-3355325232080176290,0,'2026-09-08T14:12:00.000000+00:00','temperature',44.0,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','');
INSERT INTO "reading" VALUES(255,6,-5378982021071980235,0,'2026-09-08T14:17:00.000000+00:00','temperature',36.0,2,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','cooling');
INSERT INTO "reading" VALUES(256,6,2786338255333249026,0,'2026-09-08T14:20:00.000000+00:00','no_load_current',2.2,1,8,NULL,'green bench','loaded-supply','',NULL,20.0,24.0,22.0,NULL,1,'','timing pull');
INSERT INTO "reading" VALUES(257,6,-1855492023993789703,0,'2026-09-08T14:20:00.000000+00:00','rpm',25100.0,1,8,NULL,'green bench','loaded-supply','',NULL,20.0,24.0,22.0,NULL,1,'','timing pull');
INSERT INTO "reading" VALUES(258,6,-1444803401283371808,0,'2026-09-08T14:22:00.000000+00:00','rest_volts',7.9,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','load: two-blade 42');
INSERT INTO "reading" VALUES(259,6,4289346161625370709,0,'2026-09-08T14:22:00.000000+00:00','load_volts',7.1,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','load: two-blade 42');
INSERT INTO "reading" VALUES(260,6,7602509867220637262,0,'2026-09-08T14:22:00.000000+00:00','load_current',31.0,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','load: two-blade 42');
INSERT INTO "reading" VALUES(261,6,7859996369427194754,0,'2026-09-08T14:22:00.000000+00:00','load_watts',220.0,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','load: two-blade 42');
INSERT INTO "reading" VALUES(262,6,-7585643207359204370,0,'2026-09-08T14:22:00.000000+00:00','thrust',900.0,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','load: two-blade 42');
INSERT INTO "reading" VALUES(263,6,517029098349669517,0,'2026-09-08T14:24:00.000000+00:00','flywheel_torque',1.25663706143591529245e+01,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','600 rpm');
INSERT INTO "reading" VALUES(264,6,-4854445751470520948,0,'2026-09-08T14:24:00.000000+00:00','response',5.99999999999999886332e+02,1,NULL,NULL,'green bench','','',NULL,20.0,24.0,22.0,NULL,1,'','600 rpm');
INSERT INTO "reading" VALUES(265,6,9127182552624568604,0,'2026-09-08T14:26:00.000000+00:00','noise_background',58.0,2,NULL,NULL,'green bench','','hand',NULL,20.0,24.0,22.0,NULL,1,'','50 cm');
INSERT INTO "reading" VALUES(266,6,4640148240273112761,0,'2026-09-08T14:26:00.000000+00:00','noise_avg',81.2,2,8,NULL,'green bench','','hand',NULL,20.0,24.0,22.0,NULL,1,'','50 cm');
INSERT INTO "reading" VALUES(267,7,1948328897840288191,0,'2026-09-12T14:00:00.000000+00:00','supply_volts',11.1,1,8,NULL,'stand','fixed-volt','',NULL,NULL,NULL,NULL,NULL,1,'','');
INSERT INTO "reading" VALUES(268,7,-3625498550841676730,0,'2026-09-12T14:00:00.000000+00:00','no_load_current',0.5,1,8,NULL,'stand','fixed-volt','',NULL,NULL,NULL,NULL,NULL,1,'','');
INSERT INTO "reading" VALUES(269,7,-2363819754438562763,0,'2026-09-12T14:00:00.000000+00:00','rpm',1.01142857142857137662e+04,1,8,NULL,'stand','fixed-volt','',NULL,NULL,NULL,NULL,NULL,1,'','');
INSERT INTO "reading" VALUES(270,7,-4164674375591449386,0,'2026-09-12T14:00:00.000000+00:00','electrical_frequency',116.8,1,NULL,NULL,'stand','','',NULL,NULL,NULL,NULL,NULL,1,'','');
INSERT INTO "reading" VALUES(271,7,-3799276588451643748,0,'2026-09-12T14:00:00.000000+00:00','electrical_frequency',116.5,1,NULL,NULL,'stand','','',NULL,NULL,NULL,NULL,NULL,1,'','');
INSERT INTO "reading" VALUES(272,7,3339803981191340326,0,'2026-09-12T14:00:00.000000+00:00','electrical_frequency',33.4,1,NULL,NULL,'stand','','',NULL,NULL,NULL,NULL,NULL,1,'','reference, 4 poles');
INSERT INTO "reading" VALUES(273,7,-6260969167401257570,0,'2026-09-12T14:00:00.000000+00:00','electrical_frequency',33.3,1,NULL,NULL,'stand','','',NULL,NULL,NULL,NULL,NULL,1,'','reference, 4 poles');
INSERT INTO "reading" VALUES(274,6,1528099506532605547,0,'2026-09-12T14:00:00.000000+00:00','vibration',1.0,1,1,NULL,'','','machine',NULL,NULL,NULL,NULL,NULL,1,'','');
INSERT INTO "reading" VALUES(275,5,4317733466318715717,0,'2026-09-12T14:00:00.000000+00:00','vibration',3.5,1,1,NULL,'','','machine',NULL,NULL,NULL,NULL,NULL,1,'','');
CREATE TABLE rig_spread (
	motor_id INTEGER NOT NULL, 
	rig VARCHAR NOT NULL, 
	quantity VARCHAR NOT NULL, 
	squares DOUBLE NOT NULL, 
	pairs INTEGER NOT NULL, 
	CONSTRAINT pk_rig_spread PRIMARY KEY (motor_id, rig, quantity), 
	CONSTRAINT fk_rig_spread_motor_id_motor FOREIGN KEY(motor_id) REFERENCES motor (id)
);
INSERT INTO "rig_spread" VALUES(1,'green bench','kv',1.5803429984355176277e-03,2);
INSERT INTO "rig_spread" VALUES(1,'green bench','no_load_current',2.05675618697961692937e-01,2);
INSERT INTO "rig_spread" VALUES(1,'green bench','steadiness',6.24371047511449698283e-09,2);
INSERT INTO "rig_spread" VALUES(1,'green bench','timing_mean',0.0,3);
INSERT INTO "rig_spread" VALUES(1,'green bench','timing_spread',0.0,3);
INSERT INTO "rig_spread" VALUES(1,'green bench','noise_avg',0.0,0);
INSERT INTO "rig_spread" VALUES(1,'green bench','temperature',0.0,0);
INSERT INTO "rig_spread" VALUES(1,'green bench','detent_peak',0.0,0);
INSERT INTO "rig_spread" VALUES(1,'green bench','detent_variation',0.0,0);
INSERT INTO "rig_spread" VALUES(1,'green bench','run_out',0.0,0);
INSERT INTO "rig_spread" VALUES(1,'','vibration',0.0,0);
INSERT INTO "rig_spread" VALUES(2,'green bench','kv',2.37051449765327644156e-03,3);
INSERT INTO "rig_spread" VALUES(2,'green bench','no_load_current',2.58211940997789490825e-01,3);
INSERT INTO "rig_spread" VALUES(2,'green bench','steadiness',1.1863049902707017483e-07,3);
INSERT INTO "rig_spread" VALUES(2,'green bench','timing_mean',0.0,3);
INSERT INTO "rig_spread" VALUES(2,'green bench','timing_spread',0.0,3);
INSERT INTO "rig_spread" VALUES(2,'green bench','noise_avg',0.0,0);
INSERT INTO "rig_spread" VALUES(2,'green bench','temperature',0.0,0);
INSERT INTO "rig_spread" VALUES(2,'green bench','detent_peak',0.0,0);
INSERT INTO "rig_spread" VALUES(2,'green bench','detent_variation',0.0,0);
INSERT INTO "rig_spread" VALUES(2,'green bench','run_out',0.0,0);
INSERT INTO "rig_spread" VALUES(2,'','vibration',0.0,0);
INSERT INTO "rig_spread" VALUES(3,'stand','kv',0.0,0);
INSERT INTO "rig_spread" VALUES(3,'stand','no_load_current',0.0,0);
CREATE TABLE signed_verdict (
	id INTEGER NOT NULL, 
	motor_id INTEGER NOT NULL, 
	check_id INTEGER, 
	at VARCHAR NOT NULL, 
	verdict VARCHAR NOT NULL, 
	tool_verdict VARCHAR NOT NULL, 
	reason VARCHAR NOT NULL, 
	signed_by VARCHAR NOT NULL, 
	judgement JSON NOT NULL, 
	CONSTRAINT pk_signed_verdict PRIMARY KEY (id), 
	CONSTRAINT fk_signed_verdict_check_id_bench_check FOREIGN KEY(check_id) REFERENCES bench_check (id), 
	CONSTRAINT fk_signed_verdict_motor_id_motor FOREIGN KEY(motor_id) REFERENCES motor (id)
);
INSERT INTO "signed_verdict" VALUES(1,1,1,'2026-07-14T14:30:00.000000+00:00','keep','keep','','Ines','{"verdict": "keep"}');
INSERT INTO "signed_verdict" VALUES(2,1,2,'2026-07-28T14:30:00.000000+00:00','keep','keep','','Ines','{"verdict": "keep"}');
INSERT INTO "signed_verdict" VALUES(3,2,3,'2026-07-14T14:30:00.000000+00:00','keep','keep','','Ines','{"verdict": "keep"}');
INSERT INTO "signed_verdict" VALUES(4,2,4,'2026-07-28T14:30:00.000000+00:00','keep','keep','','Ines','{"verdict": "keep"}');
CREATE TABLE standing (
	motor_id INTEGER NOT NULL, 
	stale BOOLEAN NOT NULL, 
	leans_on_model BOOLEAN NOT NULL, 
	rank INTEGER NOT NULL, 
	verdict VARCHAR NOT NULL, 
	headline VARCHAR NOT NULL, 
	reason VARCHAR NOT NULL, 
	strips JSON NOT NULL, 
	checked_at VARCHAR, 
	due_on VARCHAR NOT NULL, 
	due_runs INTEGER, 
	retired BOOLEAN NOT NULL, 
	overruled_by VARCHAR NOT NULL, 
	tool_verdict VARCHAR NOT NULL, 
	on_bench BOOLEAN NOT NULL, 
	CONSTRAINT pk_standing PRIMARY KEY (motor_id), 
	CONSTRAINT fk_standing_motor_id_motor FOREIGN KEY(motor_id) REFERENCES motor (id)
);
INSERT INTO "standing" VALUES(1,0,1,43,'keep','Keep.','Shakes 2.5 points less than the others of its machine.','[["kv", "within", 0.003], ["no_load_current", "within", 0.0], ["steadiness", "within", 0.132], ["timing_mean", "within", 0.15], ["noise_avg", "no_baseline", null], ["detent_peak", "within", 0.0]]','2026-09-08T14:00:00.000000+00:00','2026-10-23',12,0,'','keep',1);
INSERT INTO "standing" VALUES(2,0,1,10,'repair','Repair: replace the bearings.','8.0 dB louder than in July. Draws 39.9 % more than in July.','[["kv", "within", 0.0], ["no_load_current", "past", 1.33], ["steadiness", "watch", 0.795], ["timing_mean", "within", 0.15], ["noise_avg", "past", 1.336], ["detent_peak", "within", 0.0]]','2026-09-07T14:00:00.000000+00:00','2026-09-07',0,0,'','repair',1);
INSERT INTO "standing" VALUES(3,0,1,45,'keep','Keep.','KV the same as its label (−1.0 %).','[["kv", "within", 0.159], ["no_load_current", "no_baseline", null], ["steadiness", "no_baseline", null], ["timing_mean", "no_baseline", null], ["noise_avg", "no_baseline", null], ["detent_peak", "no_baseline", null]]','2026-09-12T14:00:00.000000+00:00','2026-10-27',12,0,'','keep',1);
CREATE INDEX ix_motor_model_key ON motor (model_key);
CREATE INDEX ix_act_motor_id ON act (motor_id);
CREATE INDEX ix_bench_check_motor_at ON bench_check (motor_id, at);
CREATE INDEX ix_own_baseline_motor_id ON own_baseline (motor_id);
CREATE INDEX ix_standing_rank ON standing (rank, due_on);
CREATE INDEX ix_standing_stale ON standing (stale);
CREATE INDEX ix_signed_verdict_motor_id ON signed_verdict (motor_id);
CREATE INDEX ix_picture_check_id ON picture (check_id);
CREATE INDEX ix_class_limits_motor_class ON class_limits (motor_class);
COMMIT;