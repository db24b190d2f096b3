BEGIN TRANSACTION;
CREATE TABLE "Assets" (
    "Hash" TEXT NOT NULL CONSTRAINT "PK_Assets" PRIMARY KEY,
    "Length" INTEGER NOT NULL,
    "Name" TEXT NOT NULL,
    "Created" TEXT NOT NULL
);
INSERT INTO "Assets" VALUES('d786906aa50795b1c976c9d9681540c835f725528391ce3a835fd9dfdb726c31',247850,'spoken.wav','2026-11-26 07:48:45.065819');
INSERT INTO "Assets" VALUES('8f3821e1205bb8647ab6d6c6be974898c32ffd3c932511a526c0017b68c9846a',17890,'times.json','2026-11-26 07:48:45.0935435');
INSERT INTO "Assets" VALUES('ef84fba9764976b2fe6126135c7b0a220026d6046b93994e90757500f145aea9',192788,'spoken.wav','2026-11-26 07:48:46.2211116');
INSERT INTO "Assets" VALUES('aaa3da76e237fb342e53bdd4c54a97bc4941ec689bf3d9d1573e7a23aa1591ef',14534,'times.json','2026-11-26 07:48:46.224656');
INSERT INTO "Assets" VALUES('4b49736e31719e87ce7924a8c3ef840fc07aad39d459fbfc0838720263071462',213136,'spoken.wav','2026-11-26 07:48:46.8627777');
INSERT INTO "Assets" VALUES('95c8026e4f0479d6f5c88913e0f2f0a68694c9c9fd07673c17c6fa2a6179bea8',15068,'times.json','2026-11-26 07:48:46.8650025');
INSERT INTO "Assets" VALUES('f51175a00faabc902bf8e4aaa26c49c6ea9e200052b7b29305b275b13fd3f5e6',276538,'spoken.wav','2026-11-26 07:48:47.3149264');
INSERT INTO "Assets" VALUES('49c2aee37449bec69ed2ac5ea68154d1dfc2ae6ac521f6f28205ee8639425e9c',19379,'times.json','2026-11-26 07:48:47.3183161');
INSERT INTO "Assets" VALUES('5d4f86128d81f14d190fd774e509e2423229d72b6bc51f0bcf5db01318352f6e',96044,'ding.wav','2026-11-26 07:48:50.1102591');
CREATE TABLE "CastMembers" (
    "Id" TEXT NOT NULL CONSTRAINT "PK_CastMembers" PRIMARY KEY,
    "ProductionId" TEXT NOT NULL,
    "Order" INTEGER NOT NULL,
    "RoleName" TEXT NOT NULL,
    "Character" TEXT NOT NULL,
    "Voice" TEXT NOT NULL,
    "Ink" TEXT NOT NULL,
    "MouthDials" TEXT NOT NULL,
    "PerformanceDials" TEXT NOT NULL,
    CONSTRAINT "FK_CastMembers_Productions_ProductionId" FOREIGN KEY ("ProductionId") REFERENCES "Productions" ("Id") ON DELETE RESTRICT
);
INSERT INTO "CastMembers" VALUES('0B5137B4-0F0B-432F-B18B-794823D5B808','EC06C8F8-7135-4F8D-BEE7-6E0400E26791',2,'Bubb','bubb','espeak:en-us+f4','#A34A00','','');
INSERT INTO "CastMembers" VALUES('435DCD70-D110-448B-AD62-8216EE1A3896','EC06C8F8-7135-4F8D-BEE7-6E0400E26791',1,'Maro','maro','espeak:en-gb+m3','#0B6A8A','{"strength":0.7,"dynamics":0.6,"lead":0.03,"density":0.7,"holdFrames":0,"shortest":0.08333333333333333,"shapeStrengths":{}}','');
INSERT INTO "CastMembers" VALUES('E9DE47EC-C650-46DC-9B1A-56107C03D28A','EC06C8F8-7135-4F8D-BEE7-6E0400E26791',3,'Tock','tock','espeak:en-us+klatt4','#00694E','','');
INSERT INTO "CastMembers" VALUES('05A10AA5-3A62-4313-B781-90591A39CC9D','0DA4F83D-B041-4A8E-8568-2173A8F8D272',2,'Bubb','bubb','espeak:en-us+f4','#A34A00','','');
INSERT INTO "CastMembers" VALUES('3D7DBB3E-0E82-4BC1-ABE9-F14DB825269C','0DA4F83D-B041-4A8E-8568-2173A8F8D272',1,'Maro','maro','espeak:en-gb+m3','#0B6A8A','{"strength":0.7,"dynamics":0.6,"lead":0.03,"density":0.7,"holdFrames":0,"shortest":0.08333333333333333,"shapeStrengths":{}}','');
INSERT INTO "CastMembers" VALUES('F65FE752-F876-4E26-A2CE-D25BE9D7A5FE','0DA4F83D-B041-4A8E-8568-2173A8F8D272',3,'Tock','tock','espeak:en-us+klatt4','#00694E','','');
CREATE TABLE "Clips" (
    "Id" TEXT NOT NULL CONSTRAINT "PK_Clips" PRIMARY KEY,
    "SceneId" TEXT NOT NULL,
    "CastMemberId" TEXT NOT NULL,
    "LineId" TEXT NULL,
    "Kind" INTEGER NOT NULL,
    "Name" TEXT NOT NULL,
    "Strength" REAL NOT NULL,
    "Data" TEXT NOT NULL,
    CONSTRAINT "FK_Clips_CastMembers_CastMemberId" FOREIGN KEY ("CastMemberId") REFERENCES "CastMembers" ("Id") ON DELETE RESTRICT,
    CONSTRAINT "FK_Clips_Lines_LineId" FOREIGN KEY ("LineId") REFERENCES "Lines" ("Id") ON DELETE RESTRICT,
    CONSTRAINT "FK_Clips_Scenes_SceneId" FOREIGN KEY ("SceneId") REFERENCES "Scenes" ("Id") ON DELETE RESTRICT
);
INSERT INTO "Clips" VALUES('6B6B3122-5C88-4C17-BB4D-D7F349E79183','CAC1C050-7E5F-4792-9748-31DB955E0943','435DCD70-D110-448B-AD62-8216EE1A3896','3D82BE1D-A5AF-4026-A1A5-C053F4440E6D',0,'Surprise',0.7,'{"start":{"word":-1,"text":"","share":0,"seconds":0,"of":1},"end":{"word":-1,"text":"","share":0,"seconds":1,"of":1},"length":0,"ease":0.5,"mirror":false,"loops":1,"from":0,"to":1,"own":null,"replaces":false,"blendIn":0.12,"blendOut":0.2,"walkTo":0,"walkFrom":null}');
INSERT INTO "Clips" VALUES('A63F437E-4693-4346-BFEF-F29A197996C0','CAC1C050-7E5F-4792-9748-31DB955E0943','0B5137B4-0F0B-432F-B18B-794823D5B808','177BA992-3AFD-4421-9DE7-4BE77FE0C9B5',0,'Anger',0.7,'{"start":{"word":-1,"text":"","share":0,"seconds":0,"of":1},"end":{"word":-1,"text":"","share":0,"seconds":1,"of":1},"length":0,"ease":0.5,"mirror":false,"loops":1,"from":0,"to":1,"own":null,"replaces":false,"blendIn":0.12,"blendOut":0.2,"walkTo":0,"walkFrom":null}');
INSERT INTO "Clips" VALUES('F912ADBB-74F7-4ECE-BDB2-01725FF2E7D5','CAC1C050-7E5F-4792-9748-31DB955E0943','435DCD70-D110-448B-AD62-8216EE1A3896','8A8A56EB-FA17-4F3E-81D5-27090F767530',2,'e9de47ec-c650-46dc-9b1a-56107c03d28a',1.0,'{"start":{"word":2,"text":"morning","share":0.07180209171359617,"seconds":0.5129705215419501,"of":5.619183673469387},"end":{"word":5,"text":"oven","share":0.28975183823529427,"seconds":1.5129705215419502,"of":5.619183673469387},"length":0,"ease":0.5,"mirror":false,"loops":1,"from":0,"to":1,"own":null,"replaces":false,"blendIn":0.12,"blendOut":0.2,"walkTo":307.19998,"walkFrom":null}');
INSERT INTO "Clips" VALUES('FF1A877F-E1DB-407D-B47A-7517DF6AC4C1','CAC1C050-7E5F-4792-9748-31DB955E0943','0B5137B4-0F0B-432F-B18B-794823D5B808',NULL,2,'camera',1.0,'{"start":{"word":-1,"text":"","share":0,"seconds":1,"of":0},"end":{"word":-1,"text":"","share":0,"seconds":2,"of":0},"length":0,"ease":0.5,"mirror":false,"loops":1,"from":0,"to":1,"own":null,"replaces":false,"blendIn":0.12,"blendOut":0.2,"walkTo":640,"walkFrom":null}');
INSERT INTO "Clips" VALUES('4F7B9E93-4033-4AF9-AEBC-A2B75EF00084','CAC1C050-7E5F-4792-9748-31DB955E0943','0B5137B4-0F0B-432F-B18B-794823D5B808','177BA992-3AFD-4421-9DE7-4BE77FE0C9B5',3,'walk',1.0,'{"start":{"word":0,"text":"Patience","share":1.143089310777868,"seconds":0.7537414965986393,"of":4.370612244897959},"end":{"word":7,"text":"that","share":0.9423207419135932,"seconds":2.7537414965986393,"of":4.370612244897959},"length":0,"ease":0.5,"mirror":false,"loops":1,"from":0,"to":1,"own":null,"replaces":false,"blendIn":0.12,"blendOut":0.2,"walkTo":1500,"walkFrom":null}');
INSERT INTO "Clips" VALUES('041F507B-E6EC-45BA-840C-CFF69136788D','CAC1C050-7E5F-4792-9748-31DB955E0943','435DCD70-D110-448B-AD62-8216EE1A3896','8A8A56EB-FA17-4F3E-81D5-27090F767530',1,'nod',1.0,'{"start":{"word":6,"text":"is","share":0.7407226562500002,"seconds":1.790748299319728,"of":5.619183673469387},"end":null,"length":1,"ease":0.5,"mirror":false,"loops":1,"from":0,"to":1,"own":null,"replaces":false,"blendIn":0.12,"blendOut":0.2,"walkTo":307.19998,"walkFrom":null}');
INSERT INTO "Clips" VALUES('937BB519-0DEA-4B02-ACAC-F28562BDB210','ADA256CE-82B0-4C9C-8A50-64A06CD378CD','05A10AA5-3A62-4313-B781-90591A39CC9D',NULL,2,'camera',1.0,'{"start":{"word":-1,"text":"","share":0,"seconds":1,"of":0},"end":{"word":-1,"text":"","share":0,"seconds":2,"of":0},"length":0,"ease":0.5,"mirror":false,"loops":1,"from":0,"to":1,"own":null,"replaces":false,"blendIn":0.12,"blendOut":0.2,"walkTo":640,"walkFrom":null}');
INSERT INTO "Clips" VALUES('50CF71AC-0993-4686-80D5-AA813ABBA1EE','ADA256CE-82B0-4C9C-8A50-64A06CD378CD','05A10AA5-3A62-4313-B781-90591A39CC9D','EAF8E66A-36FC-4BE5-9221-C241C45CF71C',3,'walk',1.0,'{"start":{"word":0,"text":"Patience","share":1.143089310777868,"seconds":0.7537414965986393,"of":4.370612244897959},"end":{"word":7,"text":"that","share":0.9423207419135932,"seconds":2.7537414965986393,"of":4.370612244897959},"length":0,"ease":0.5,"mirror":false,"loops":1,"from":0,"to":1,"own":null,"replaces":false,"blendIn":0.12,"blendOut":0.2,"walkTo":1500,"walkFrom":null}');
INSERT INTO "Clips" VALUES('6CFDAD16-2C88-43E4-B4F9-CB77DB1B4E65','ADA256CE-82B0-4C9C-8A50-64A06CD378CD','3D7DBB3E-0E82-4BC1-ABE9-F14DB825269C','6E7E983B-AD83-4210-B421-E80C6D986064',2,'e9de47ec-c650-46dc-9b1a-56107c03d28a',1.0,'{"start":{"word":2,"text":"morning","share":0.07180209171359617,"seconds":0.5129705215419501,"of":5.619183673469387},"end":{"word":5,"text":"oven","share":0.28975183823529427,"seconds":1.5129705215419502,"of":5.619183673469387},"length":0,"ease":0.5,"mirror":false,"loops":1,"from":0,"to":1,"own":null,"replaces":false,"blendIn":0.12,"blendOut":0.2,"walkTo":307.19998,"walkFrom":null}');
INSERT INTO "Clips" VALUES('8A879878-BCF4-4D6D-AAAB-1BBF019CB21D','ADA256CE-82B0-4C9C-8A50-64A06CD378CD','3D7DBB3E-0E82-4BC1-ABE9-F14DB825269C','1DCA964C-325A-41D3-8C3A-D960395F64FF',0,'Surprise',0.7,'{"start":{"word":-1,"text":"","share":0,"seconds":0,"of":1},"end":{"word":-1,"text":"","share":0,"seconds":1,"of":1},"length":0,"ease":0.5,"mirror":false,"loops":1,"from":0,"to":1,"own":null,"replaces":false,"blendIn":0.12,"blendOut":0.2,"walkTo":0,"walkFrom":null}');
INSERT INTO "Clips" VALUES('AA915828-DF2E-44FC-A017-81921E60429C','ADA256CE-82B0-4C9C-8A50-64A06CD378CD','05A10AA5-3A62-4313-B781-90591A39CC9D','EAF8E66A-36FC-4BE5-9221-C241C45CF71C',0,'Anger',0.7,'{"start":{"word":-1,"text":"","share":0,"seconds":0,"of":1},"end":{"word":-1,"text":"","share":0,"seconds":1,"of":1},"length":0,"ease":0.5,"mirror":false,"loops":1,"from":0,"to":1,"own":null,"replaces":false,"blendIn":0.12,"blendOut":0.2,"walkTo":0,"walkFrom":null}');
INSERT INTO "Clips" VALUES('E8E27E6C-3474-4539-BEE9-6511B5A40B83','ADA256CE-82B0-4C9C-8A50-64A06CD378CD','3D7DBB3E-0E82-4BC1-ABE9-F14DB825269C','6E7E983B-AD83-4210-B421-E80C6D986064',1,'nod',1.0,'{"start":{"word":6,"text":"is","share":0.7407226562500002,"seconds":1.790748299319728,"of":5.619183673469387},"end":null,"length":1,"ease":0.5,"mirror":false,"loops":1,"from":0,"to":1,"own":null,"replaces":false,"blendIn":0.12,"blendOut":0.2,"walkTo":307.19998,"walkFrom":null}');
CREATE TABLE "History" (
    "Id" INTEGER NOT NULL CONSTRAINT "PK_History" PRIMARY KEY AUTOINCREMENT,
    "ProductionId" TEXT NOT NULL,
    "Position" INTEGER NOT NULL,
    "Name" TEXT NOT NULL,
    "Changes" TEXT NOT NULL,
    "At" TEXT NOT NULL,
    CONSTRAINT "FK_History_Productions_ProductionId" FOREIGN KEY ("ProductionId") REFERENCES "Productions" ("Id") ON DELETE CASCADE
);
INSERT INTO "History" VALUES(1,'EC06C8F8-7135-4F8D-BEE7-6E0400E26791',1,'Another take','[{"Type":"Take","Key":{"Id":"c0ba3e92-0e6b-469c-852b-04ae14cf783a"},"Before":null,"After":{"Id":"c0ba3e92-0e6b-469c-852b-04ae14cf783a","AssetHash":"d786906aa50795b1c976c9d9681540c835f725528391ce3a835fd9dfdb726c31","Care":"","Created":"2026-11-26T07:48:45.5479487Z","Duration":5.619183673469387,"GuideHash":null,"GuideName":"","Kind":2,"LineId":"8a8a56eb-fa17-4f3e-81d5-27090f767530","Name":"espeak:en-gb\u002Bm3","PartEnd":null,"PartStart":null,"SpeechHash":"8f3821e1205bb8647ab6d6c6be974898c32ffd3c932511a526c0017b68c9846a","SpokenDelivery":"{\u0022speed\u0022:1,\u0022pitch\u0022:0.5,\u0022range\u0022:0.5,\u0022volume\u0022:1,\u0022pauses\u0022:0,\u0022isWhispered\u0022:false}","SpokenText":"Three in the morning, and the oven is finally hot. Patience, Bubb. Your flour is on the scale."}},{"Type":"Line","Key":{"Id":"8a8a56eb-fa17-4f3e-81d5-27090f767530"},"Before":{"Id":"8a8a56eb-fa17-4f3e-81d5-27090f767530","Also":"","CastMemberId":"435dcd70-d110-448b-ad62-8216ee1a3896","Delivery":"{\u0022speed\u0022:1,\u0022pitch\u0022:0.5,\u0022range\u0022:0.5,\u0022volume\u0022:1,\u0022pauses\u0022:0,\u0022isWhispered\u0022:false}","IsMute":false,"IsOffStage":false,"Order":1,"Pause":null,"SceneId":"cac1c050-7e5f-4792-9748-31db955e0943","Start":null,"TakeId":null,"Text":"Three in the morning, and the oven is finally hot. Patience, Bubb. Your flour is on the scale."},"After":{"Id":"8a8a56eb-fa17-4f3e-81d5-27090f767530","Also":"","CastMemberId":"435dcd70-d110-448b-ad62-8216ee1a3896","Delivery":"{\u0022speed\u0022:1,\u0022pitch\u0022:0.5,\u0022range\u0022:0.5,\u0022volume\u0022:1,\u0022pauses\u0022:0,\u0022isWhispered\u0022:false}","IsMute":false,"IsOffStage":false,"Order":1,"Pause":null,"SceneId":"cac1c050-7e5f-4792-9748-31db955e0943","Start":null,"TakeId":"c0ba3e92-0e6b-469c-852b-04ae14cf783a","Text":"Three in the morning, and the oven is finally hot. Patience, Bubb. Your flour is on the scale."}}]','2026-11-26 07:48:45.7279315');
INSERT INTO "History" VALUES(2,'EC06C8F8-7135-4F8D-BEE7-6E0400E26791',2,'Another take','[{"Type":"Take","Key":{"Id":"acdcccf0-4874-4d1b-bdce-05299da3f9a2"},"Before":null,"After":{"Id":"acdcccf0-4874-4d1b-bdce-05299da3f9a2","AssetHash":"ef84fba9764976b2fe6126135c7b0a220026d6046b93994e90757500f145aea9","Care":"","Created":"2026-11-26T07:48:46.5702099Z","Duration":4.370612244897959,"GuideHash":null,"GuideName":"","Kind":2,"LineId":"177ba992-3afd-4421-9de7-4be77fe0c9b5","Name":"espeak:en-us\u002Bf4","PartEnd":null,"PartStart":null,"SpeechHash":"aaa3da76e237fb342e53bdd4c54a97bc4941ec689bf3d9d1573e7a23aa1591ef","SpokenDelivery":"{\u0022speed\u0022:1,\u0022pitch\u0022:0.5,\u0022range\u0022:0.5,\u0022volume\u0022:1,\u0022pauses\u0022:0,\u0022isWhispered\u0022:false}","SpokenText":"Patience? You fed me at noon, and that was a hundred years ago!"}},{"Type":"Line","Key":{"Id":"177ba992-3afd-4421-9de7-4be77fe0c9b5"},"Before":{"Id":"177ba992-3afd-4421-9de7-4be77fe0c9b5","Also":"","CastMemberId":"0b5137b4-0f0b-432f-b18b-794823d5b808","Delivery":"{\u0022speed\u0022:1,\u0022pitch\u0022:0.5,\u0022range\u0022:0.5,\u0022volume\u0022:1,\u0022pauses\u0022:0,\u0022isWhispered\u0022:false}","IsMute":false,"IsOffStage":false,"Order":2,"Pause":null,"SceneId":"cac1c050-7e5f-4792-9748-31db955e0943","Start":null,"TakeId":null,"Text":"Patience? You fed me at noon, and that was a hundred years ago!"},"After":{"Id":"177ba992-3afd-4421-9de7-4be77fe0c9b5","Also":"","CastMemberId":"0b5137b4-0f0b-432f-b18b-794823d5b808","Delivery":"{\u0022speed\u0022:1,\u0022pitch\u0022:0.5,\u0022range\u0022:0.5,\u0022volume\u0022:1,\u0022pauses\u0022:0,\u0022isWhispered\u0022:false}","IsMute":false,"IsOffStage":false,"Order":2,"Pause":null,"SceneId":"cac1c050-7e5f-4792-9748-31db955e0943","Start":null,"TakeId":"acdcccf0-4874-4d1b-bdce-05299da3f9a2","Text":"Patience? You fed me at noon, and that was a hundred years ago!"}}]','2026-11-26 07:48:46.5750047');
INSERT INTO "History" VALUES(3,'EC06C8F8-7135-4F8D-BEE7-6E0400E26791',3,'Another take','[{"Type":"Take","Key":{"Id":"b0d30c2f-74f6-4013-9f05-a89a71fe90aa"},"Before":null,"After":{"Id":"b0d30c2f-74f6-4013-9f05-a89a71fe90aa","AssetHash":"4b49736e31719e87ce7924a8c3ef840fc07aad39d459fbfc0838720263071462","Care":"","Created":"2026-11-26T07:48:47.0856635Z","Duration":4.832018140589569,"GuideHash":null,"GuideName":"","Kind":2,"LineId":"3c4dcb4a-872f-48c8-bcd2-6e83f1c03722","Name":"espeak:en-us\u002Bklatt4","PartEnd":null,"PartStart":null,"SpeechHash":"95c8026e4f0479d6f5c88913e0f2f0a68694c9c9fd07673c17c6fa2a6179bea8","SpokenDelivery":"{\u0022speed\u0022:1,\u0022pitch\u0022:0.5,\u0022range\u0022:0.5,\u0022volume\u0022:1,\u0022pauses\u0022:0,\u0022isWhispered\u0022:false}","SpokenText":"Correction. Fifteen hours and four minutes. And the rolls are done in nine."}},{"Type":"Line","Key":{"Id":"3c4dcb4a-872f-48c8-bcd2-6e83f1c03722"},"Before":{"Id":"3c4dcb4a-872f-48c8-bcd2-6e83f1c03722","Also":"","CastMemberId":"e9de47ec-c650-46dc-9b1a-56107c03d28a","Delivery":"{\u0022speed\u0022:1,\u0022pitch\u0022:0.5,\u0022range\u0022:0.5,\u0022volume\u0022:1,\u0022pauses\u0022:0,\u0022isWhispered\u0022:false}","IsMute":false,"IsOffStage":false,"Order":3,"Pause":null,"SceneId":"cac1c050-7e5f-4792-9748-31db955e0943","Start":null,"TakeId":null,"Text":"Correction. Fifteen hours and four minutes. And the rolls are done in nine."},"After":{"Id":"3c4dcb4a-872f-48c8-bcd2-6e83f1c03722","Also":"","CastMemberId":"e9de47ec-c650-46dc-9b1a-56107c03d28a","Delivery":"{\u0022speed\u0022:1,\u0022pitch\u0022:0.5,\u0022range\u0022:0.5,\u0022volume\u0022:1,\u0022pauses\u0022:0,\u0022isWhispered\u0022:false}","IsMute":false,"IsOffStage":false,"Order":3,"Pause":null,"SceneId":"cac1c050-7e5f-4792-9748-31db955e0943","Start":null,"TakeId":"b0d30c2f-74f6-4013-9f05-a89a71fe90aa","Text":"Correction. Fifteen hours and four minutes. And the rolls are done in nine."}}]','2026-11-26 07:48:47.0895465');
INSERT INTO "History" VALUES(4,'EC06C8F8-7135-4F8D-BEE7-6E0400E26791',4,'Another take','[{"Type":"Take","Key":{"Id":"796a9c1a-0d18-4260-a4a6-c3098463e1f3"},"Before":null,"After":{"Id":"796a9c1a-0d18-4260-a4a6-c3098463e1f3","AssetHash":"f51175a00faabc902bf8e4aaa26c49c6ea9e200052b7b29305b275b13fd3f5e6","Care":"","Created":"2026-11-26T07:48:47.6787246Z","Duration":6.269705215419501,"GuideHash":null,"GuideName":"","Kind":2,"LineId":"3d82be1d-a5af-4026-a1a5-c053f4440e6d","Name":"espeak:en-gb\u002Bm3","PartEnd":null,"PartStart":null,"SpeechHash":"49c2aee37449bec69ed2ac5ea68154d1dfc2ae6ac521f6f28205ee8639425e9c","SpokenDelivery":"{\u0022speed\u0022:1.08,\u0022pitch\u0022:0.6,\u0022range\u0022:0.75,\u0022volume\u0022:1.05,\u0022pauses\u0022:0,\u0022isWhispered\u0022:false}","SpokenText":"Nine? Oh, the rolls! Forty of them, one baker, and nobody to complain to but a jar and a clock."}},{"Type":"Line","Key":{"Id":"3d82be1d-a5af-4026-a1a5-c053f4440e6d"},"Before":{"Id":"3d82be1d-a5af-4026-a1a5-c053f4440e6d","Also":"","CastMemberId":"435dcd70-d110-448b-ad62-8216ee1a3896","Delivery":"{\u0022speed\u0022:1.08,\u0022pitch\u0022:0.6,\u0022range\u0022:0.75,\u0022volume\u0022:1.05,\u0022pauses\u0022:0,\u0022isWhispered\u0022:false}","IsMute":false,"IsOffStage":false,"Order":4,"Pause":null,"SceneId":"cac1c050-7e5f-4792-9748-31db955e0943","Start":null,"TakeId":null,"Text":"Nine? Oh, the rolls! Forty of them, one baker, and nobody to complain to but a jar and a clock."},"After":{"Id":"3d82be1d-a5af-4026-a1a5-c053f4440e6d","Also":"","CastMemberId":"435dcd70-d110-448b-ad62-8216ee1a3896","Delivery":"{\u0022speed\u0022:1.08,\u0022pitch\u0022:0.6,\u0022range\u0022:0.75,\u0022volume\u0022:1.05,\u0022pauses\u0022:0,\u0022isWhispered\u0022:false}","IsMute":false,"IsOffStage":false,"Order":4,"Pause":null,"SceneId":"cac1c050-7e5f-4792-9748-31db955e0943","Start":null,"TakeId":"796a9c1a-0d18-4260-a4a6-c3098463e1f3","Text":"Nine? Oh, the rolls! Forty of them, one baker, and nobody to complain to but a jar and a clock."}}]','2026-11-26 07:48:47.6838017');
INSERT INTO "History" VALUES(5,'EC06C8F8-7135-4F8D-BEE7-6E0400E26791',5,'Change who speaks in unison','[{"Type":"Line","Key":{"Id":"8a8a56eb-fa17-4f3e-81d5-27090f767530"},"Before":{"Id":"8a8a56eb-fa17-4f3e-81d5-27090f767530","Also":"","CastMemberId":"435dcd70-d110-448b-ad62-8216ee1a3896","Delivery":"{\u0022speed\u0022:1,\u0022pitch\u0022:0.5,\u0022range\u0022:0.5,\u0022volume\u0022:1,\u0022pauses\u0022:0,\u0022isWhispered\u0022:false}","IsMute":false,"IsOffStage":false,"Order":1,"Pause":null,"SceneId":"cac1c050-7e5f-4792-9748-31db955e0943","Start":null,"TakeId":"c0ba3e92-0e6b-469c-852b-04ae14cf783a","Text":"Three in the morning, and the oven is finally hot. Patience, Bubb. Your flour is on the scale."},"After":{"Id":"8a8a56eb-fa17-4f3e-81d5-27090f767530","Also":"0b5137b4-0f0b-432f-b18b-794823d5b808 e9de47ec-c650-46dc-9b1a-56107c03d28a","CastMemberId":"435dcd70-d110-448b-ad62-8216ee1a3896","Delivery":"{\u0022speed\u0022:1,\u0022pitch\u0022:0.5,\u0022range\u0022:0.5,\u0022volume\u0022:1,\u0022pauses\u0022:0,\u0022isWhispered\u0022:false}","IsMute":false,"IsOffStage":false,"Order":1,"Pause":null,"SceneId":"cac1c050-7e5f-4792-9748-31db955e0943","Start":null,"TakeId":"c0ba3e92-0e6b-469c-852b-04ae14cf783a","Text":"Three in the morning, and the oven is finally hot. Patience, Bubb. Your flour is on the scale."}}]','2026-11-26 07:48:47.9928482');
INSERT INTO "History" VALUES(6,'EC06C8F8-7135-4F8D-BEE7-6E0400E26791',6,'To Tock for Maro','[{"Type":"ScoreClip","Key":{"Id":"f912adbb-74f7-4ece-bdb2-01725ff2e7d5"},"Before":null,"After":{"Id":"f912adbb-74f7-4ece-bdb2-01725ff2e7d5","CastMemberId":"435dcd70-d110-448b-ad62-8216ee1a3896","Data":"{\u0022start\u0022:{\u0022word\u0022:2,\u0022text\u0022:\u0022morning\u0022,\u0022share\u0022:0.07180209171359617,\u0022seconds\u0022:0.5129705215419501,\u0022of\u0022:5.619183673469387},\u0022end\u0022:{\u0022word\u0022:5,\u0022text\u0022:\u0022oven\u0022,\u0022share\u0022:0.28975183823529427,\u0022seconds\u0022:1.5129705215419502,\u0022of\u0022:5.619183673469387},\u0022length\u0022:0,\u0022ease\u0022:0.5,\u0022mirror\u0022:false,\u0022loops\u0022:1,\u0022from\u0022:0,\u0022to\u0022:1,\u0022own\u0022:null,\u0022replaces\u0022:false,\u0022blendIn\u0022:0.12,\u0022blendOut\u0022:0.2,\u0022walkTo\u0022:307.19998,\u0022walkFrom\u0022:null}","Kind":"Look","LineId":"8a8a56eb-fa17-4f3e-81d5-27090f767530","Name":"e9de47ec-c650-46dc-9b1a-56107c03d28a","SceneId":"cac1c050-7e5f-4792-9748-31db955e0943","Strength":1}}]','2026-11-26 07:48:48.037944');
INSERT INTO "History" VALUES(7,'EC06C8F8-7135-4F8D-BEE7-6E0400E26791',7,'To the camera for Bubb','[{"Type":"ScoreClip","Key":{"Id":"ff1a877f-e1db-407d-b47a-7517df6ac4c1"},"Before":null,"After":{"Id":"ff1a877f-e1db-407d-b47a-7517df6ac4c1","CastMemberId":"0b5137b4-0f0b-432f-b18b-794823d5b808","Data":"{\u0022start\u0022:{\u0022word\u0022:-1,\u0022text\u0022:\u0022\u0022,\u0022share\u0022:0,\u0022seconds\u0022:1,\u0022of\u0022:0},\u0022end\u0022:{\u0022word\u0022:-1,\u0022text\u0022:\u0022\u0022,\u0022share\u0022:0,\u0022seconds\u0022:2,\u0022of\u0022:0},\u0022length\u0022:0,\u0022ease\u0022:0.5,\u0022mirror\u0022:false,\u0022loops\u0022:1,\u0022from\u0022:0,\u0022to\u0022:1,\u0022own\u0022:null,\u0022replaces\u0022:false,\u0022blendIn\u0022:0.12,\u0022blendOut\u0022:0.2,\u0022walkTo\u0022:640,\u0022walkFrom\u0022:null}","Kind":"Look","LineId":null,"Name":"camera","SceneId":"cac1c050-7e5f-4792-9748-31db955e0943","Strength":1}}]','2026-11-26 07:48:48.0633396');
INSERT INTO "History" VALUES(8,'EC06C8F8-7135-4F8D-BEE7-6E0400E26791',8,'Exit for Bubb','[{"Type":"ScoreClip","Key":{"Id":"4f7b9e93-4033-4af9-aebc-a2b75ef00084"},"Before":null,"After":{"Id":"4f7b9e93-4033-4af9-aebc-a2b75ef00084","CastMemberId":"0b5137b4-0f0b-432f-b18b-794823d5b808","Data":"{\u0022start\u0022:{\u0022word\u0022:0,\u0022text\u0022:\u0022Patience\u0022,\u0022share\u0022:1.143089310777868,\u0022seconds\u0022:0.7537414965986393,\u0022of\u0022:4.370612244897959},\u0022end\u0022:{\u0022word\u0022:7,\u0022text\u0022:\u0022that\u0022,\u0022share\u0022:0.9423207419135932,\u0022seconds\u0022:2.7537414965986393,\u0022of\u0022:4.370612244897959},\u0022length\u0022:0,\u0022ease\u0022:0.5,\u0022mirror\u0022:false,\u0022loops\u0022:1,\u0022from\u0022:0,\u0022to\u0022:1,\u0022own\u0022:null,\u0022replaces\u0022:false,\u0022blendIn\u0022:0.12,\u0022blendOut\u0022:0.2,\u0022walkTo\u0022:1500,\u0022walkFrom\u0022:null}","Kind":"Walk","LineId":"177ba992-3afd-4421-9de7-4be77fe0c9b5","Name":"walk","SceneId":"cac1c050-7e5f-4792-9748-31db955e0943","Strength":1}}]','2026-11-26 07:48:48.0777719');
INSERT INTO "History" VALUES(9,'EC06C8F8-7135-4F8D-BEE7-6E0400E26791',9,'Nod for Maro','[{"Type":"ScoreClip","Key":{"Id":"041f507b-e6ec-45ba-840c-cff69136788d"},"Before":null,"After":{"Id":"041f507b-e6ec-45ba-840c-cff69136788d","CastMemberId":"435dcd70-d110-448b-ad62-8216ee1a3896","Data":"{\u0022start\u0022:{\u0022word\u0022:6,\u0022text\u0022:\u0022is\u0022,\u0022share\u0022:0.7407226562500002,\u0022seconds\u0022:1.790748299319728,\u0022of\u0022:5.619183673469387},\u0022end\u0022:null,\u0022length\u0022:1,\u0022ease\u0022:0.5,\u0022mirror\u0022:false,\u0022loops\u0022:1,\u0022from\u0022:0,\u0022to\u0022:1,\u0022own\u0022:null,\u0022replaces\u0022:false,\u0022blendIn\u0022:0.12,\u0022blendOut\u0022:0.2,\u0022walkTo\u0022:307.19998,\u0022walkFrom\u0022:null}","Kind":"Gesture","LineId":"8a8a56eb-fa17-4f3e-81d5-27090f767530","Name":"nod","SceneId":"cac1c050-7e5f-4792-9748-31db955e0943","Strength":1}}]','2026-11-26 07:48:48.1108979');
INSERT INTO "History" VALUES(10,'EC06C8F8-7135-4F8D-BEE7-6E0400E26791',10,'Add a mouth: Round','[{"Type":"LineTouch","Key":{"Id":"b0e062a3-e8c0-47a0-96c1-92900a0bb1b9"},"Before":null,"After":{"Id":"b0e062a3-e8c0-47a0-96c1-92900a0bb1b9","Data":"{\u0022id\u0022:\u0022b0e062a3-e8c0-47a0-96c1-92900a0bb1b9\u0022,\u0022kind\u0022:\u0022Replace\u0022,\u0022start\u0022:0.5,\u0022end\u0022:0.7,\u0022cues\u0022:[{\u0022shape\u0022:\u0022Round\u0022,\u0022start\u0022:0.5,\u0022peak\u0022:0.6,\u0022end\u0022:0.7,\u0022strength\u0022:1}],\u0022factor\u0022:1,\u0022from\u0022:null,\u0022context\u0022:[{\u0022word\u0022:\u0022patience\u0022,\u0022phone\u0022:\u0022P\u0022,\u0022start\u0022:0.05197278911564626,\u0022end\u0022:0.08630385487528344},{\u0022word\u0022:\u0022patience\u0022,\u0022phone\u0022:\u0022EY\u0022,\u0022start\u0022:0.08630385487528344,\u0022end\u0022:0.33904761904761904},{\u0022word\u0022:\u0022patience\u0022,\u0022phone\u0022:\u0022SH\u0022,\u0022start\u0022:0.33904761904761904,\u0022end\u0022:0.436281179138322},{\u0022word\u0022:\u0022patience\u0022,\u0022phone\u0022:\u0022AH\u0022,\u0022start\u0022:0.436281179138322,\u0022end\u0022:0.4943310657596372},{\u0022word\u0022:\u0022patience\u0022,\u0022phone\u0022:\u0022N\u0022,\u0022start\u0022:0.4943310657596372,\u0022end\u0022:0.5584126984126984},{\u0022word\u0022:\u0022patience\u0022,\u0022phone\u0022:\u0022S\u0022,\u0022start\u0022:0.5584126984126984,\u0022end\u0022:0.6658956916099773},{\u0022word\u0022:\u0022you\u0022,\u0022phone\u0022:\u0022Y\u0022,\u0022start\u0022:0.9978684807256236,\u0022end\u0022:1.0704308390022677},{\u0022word\u0022:\u0022you\u0022,\u0022phone\u0022:\u0022UW\u0022,\u0022start\u0022:1.0704308390022677,\u0022end\u0022:1.1312925170068027},{\u0022word\u0022:\u0022fed\u0022,\u0022phone\u0022:\u0022F\u0022,\u0022start\u0022:1.1312925170068027,\u0022end\u0022:1.2109297052154195},{\u0022word\u0022:\u0022fed\u0022,\u0022phone\u0022:\u0022EH\u0022,\u0022start\u0022:1.2109297052154195,\u0022end\u0022:1.3531519274376418},{\u0022word\u0022:\u0022fed\u0022,\u0022phone\u0022:\u0022D\u0022,\u0022start\u0022:1.3531519274376418,\u0022end\u0022:1.4286167800453515},{\u0022word\u0022:\u0022me\u0022,\u0022phone\u0022:\u0022M\u0022,\u0022start\u0022:1.4286167800453515,\u0022end\u0022:1.4895691609977324},{\u0022word\u0022:\u0022me\u0022,\u0022phone\u0022:\u0022IY\u0022,\u0022start\u0022:1.4895691609977324,\u0022end\u0022:1.5331065759637188},{\u0022word\u0022:\u0022at\u0022,\u0022phone\u0022:\u0022AE\u0022,\u0022start\u0022:1.5708390022675738,\u0022end\u0022:1.6708390022675736},{\u0022word\u0022:\u0022at\u0022,\u0022phone\u0022:\u0022T\u0022,\u0022start\u0022:1.6708390022675736,\u0022end\u0022:1.7185034013605442},{\u0022word\u0022:\u0022noon\u0022,\u0022phone\u0022:\u0022N\u0022,\u0022start\u0022:1.7185034013605442,\u0022end\u0022:1.863628117913832},{\u0022word\u0022:\u0022noon\u0022,\u0022phone\u0022:\u0022UW\u0022,\u0022start\u0022:1.863628117913832,\u0022end\u0022:2.0755102040816324},{\u0022word\u0022:\u0022noon\u0022,\u0022phone\u0022:\u0022N\u0022,\u0022start\u0022:2.0755102040816324,\u0022end\u0022:2.204172335600907},{\u0022word\u0022:\u0022and\u0022,\u0022phone\u0022:\u0022AE\u0022,\u0022start\u0022:2.3701587301587304,\u0022end\u0022:2.434013605442177},{\u0022word\u0022:\u0022and\u0022,\u0022phone\u0022:\u0022N\u0022,\u0022start\u0022:2.434013605442177,\u0022end\u0022:2.4978684807256237},{\u0022word\u0022:\u0022and\u0022,\u0022phone\u0022:\u0022D\u0022,\u0022start\u0022:2.4978684807256237,\u0022end\u0022:2.5648072562358277},{\u0022word\u0022:\u0022that\u0022,\u0022phone\u0022:\u0022DH\u0022,\u0022start\u0022:2.5648072562358277,\u0022end\u0022:2.61124716553288},{\u0022word\u0022:\u0022that\u0022,\u0022phone\u0022:\u0022AE\u0022,\u0022start\u0022:2.61124716553288,\u0022end\u0022:2.7176417233560093},{\u0022word\u0022:\u0022that\u0022,\u0022phone\u0022:\u0022T\u0022,\u0022start\u0022:2.7176417233560093,\u0022end\u0022:2.7653061224489797},{\u0022word\u0022:\u0022was\u0022,\u0022phone\u0022:\u0022W\u0022,\u0022start\u0022:2.7653061224489797,\u0022end\u0022:2.8436734693877552},{\u0022word\u0022:\u0022was\u0022,\u0022phone\u0022:\u0022AH\u0022,\u0022start\u0022:2.8436734693877552,\u0022end\u0022:2.8756009070294786},{\u0022word\u0022:\u0022was\u0022,\u0022phone\u0022:\u0022Z\u0022,\u0022start\u0022:2.8756009070294786,\u0022end\u0022:2.927845804988662},{\u0022word\u0022:\u0022was\u0022,\u0022phone\u0022:\u0022AH\u0022,\u0022start\u0022:2.927845804988662,\u0022end\u0022:2.994512471655329},{\u0022word\u0022:\u0022hundred\u0022,\u0022phone\u0022:\u0022HH\u0022,\u0022start\u0022:2.994512471655329,\u0022end\u0022:3.0596371882086166},{\u0022word\u0022:\u0022hundred\u0022,\u0022phone\u0022:\u0022AH\u0022,\u0022start\u0022:3.0596371882086166,\u0022end\u0022:3.1641269841269843}]}","IsOn":true,"LineId":"177ba992-3afd-4421-9de7-4be77fe0c9b5","Order":1,"Title":"Patience: Round"}}]','2026-11-26 07:48:48.2265231');
INSERT INTO "History" VALUES(11,'EC06C8F8-7135-4F8D-BEE7-6E0400E26791',11,'Mark as not voice','[{"Type":"TakeMark","Key":{"Id":"86d56ab7-6ec3-4bbe-a4a5-a58f5d5e89e8"},"Before":null,"After":{"Id":"86d56ab7-6ec3-4bbe-a4a5-a58f5d5e89e8","End":0.3,"IsVoice":false,"Start":0.1,"TakeId":"acdcccf0-4874-4d1b-bdce-05299da3f9a2"}}]','2026-11-26 07:48:48.3540592');
INSERT INTO "History" VALUES(12,'EC06C8F8-7135-4F8D-BEE7-6E0400E26791',12,'Boundary of "Correction"','[{"Type":"TakePin","Key":{"Id":"b0e7c3fd-e5aa-4a3b-a729-610786f86c6b"},"Before":null,"After":{"Id":"b0e7c3fd-e5aa-4a3b-a729-610786f86c6b","Near":0.08943310657596372,"Phone":1,"TakeId":"b0d30c2f-74f6-4013-9f05-a89a71fe90aa","Time":0.2,"Word":"Correction"}}]','2026-11-26 07:48:48.4664216');
INSERT INTO "History" VALUES(13,'EC06C8F8-7135-4F8D-BEE7-6E0400E26791',13,'How "rolls" is said','[{"Type":"Respelling","Key":{"Id":"563d70d0-962b-4ced-acda-064181301c06"},"Before":null,"After":{"Id":"563d70d0-962b-4ced-acda-064181301c06","Phones":"R OW L Z","ProductionId":"ec06c8f8-7135-4f8d-bee7-6e0400e26791","Word":"rolls","Written":"R OW L Z"}}]','2026-11-26 07:48:49.8646699');
INSERT INTO "History" VALUES(14,'EC06C8F8-7135-4F8D-BEE7-6E0400E26791',14,'Bring in ding.wav','[{"Type":"SceneSound","Key":{"Id":"de05523b-1dfc-4863-a950-e09d1ce7b7c6"},"Before":null,"After":{"Id":"de05523b-1dfc-4863-a950-e09d1ce7b7c6","AssetHash":"5d4f86128d81f14d190fd774e509e2423229d72b6bc51f0bcf5db01318352f6e","Duck":0,"Duration":1,"FadeIn":0,"FadeOut":0,"From":0,"Gain":0,"Kind":"Effect","Length":null,"Loops":false,"Name":"ding.wav","SceneId":"cac1c050-7e5f-4792-9748-31db955e0943","Start":1}}]','2026-11-26 07:48:50.5267845');
INSERT INTO "History" VALUES(15,'EC06C8F8-7135-4F8D-BEE7-6E0400E26791',15,'Turn a mouth dial','[{"Type":"CastMember","Key":{"Id":"435dcd70-d110-448b-ad62-8216ee1a3896"},"Before":{"Id":"435dcd70-d110-448b-ad62-8216ee1a3896","Character":"maro","Ink":"#0B6A8A","MouthDials":"","Order":1,"PerformanceDials":"","ProductionId":"ec06c8f8-7135-4f8d-bee7-6e0400e26791","RoleName":"Maro","Voice":"espeak:en-gb\u002Bm3"},"After":{"Id":"435dcd70-d110-448b-ad62-8216ee1a3896","Character":"maro","Ink":"#0B6A8A","MouthDials":"{\u0022strength\u0022:0.7,\u0022dynamics\u0022:0.6,\u0022lead\u0022:0.03,\u0022density\u0022:0.7,\u0022holdFrames\u0022:0,\u0022shortest\u0022:0.08333333333333333,\u0022shapeStrengths\u0022:{}}","Order":1,"PerformanceDials":"","ProductionId":"ec06c8f8-7135-4f8d-bee7-6e0400e26791","RoleName":"Maro","Voice":"espeak:en-gb\u002Bm3"}}]','2026-11-26 07:48:50.5767181');
INSERT INTO "History" VALUES(16,'EC06C8F8-7135-4F8D-BEE7-6E0400E26791',16,'Add a scene','[{"Type":"Scene","Key":{"Id":"c0739c93-8068-4c4e-8e64-25f7abca47e9"},"Before":null,"After":{"Id":"c0739c93-8068-4c4e-8e64-25f7abca47e9","Backdrop":"bakery","Gap":0.2,"LeadIn":0.5,"LeadOut":0.8,"Order":2,"ProductionId":"ec06c8f8-7135-4f8d-bee7-6e0400e26791","Title":"Morning"}}]','2026-11-26 07:48:50.6085312');
CREATE TABLE "Jobs" (
    "Id" TEXT NOT NULL CONSTRAINT "PK_Jobs" PRIMARY KEY,
    "ProductionId" TEXT NOT NULL,
    "Kind" TEXT NOT NULL,
    "Title" TEXT NOT NULL,
    "State" INTEGER NOT NULL,
    "Progress" REAL NOT NULL,
    "Detail" TEXT NOT NULL,
    "Error" TEXT NULL,
    "Payload" TEXT NOT NULL,
    "Result" TEXT NULL,
    "Created" TEXT NOT NULL,
    "Finished" TEXT NULL
);
INSERT INTO "Jobs" VALUES('F4E4769B-964A-4EE5-BB84-BFB2E3BCB0A2','EC06C8F8-7135-4F8D-BEE7-6E0400E26791','speak','Speak a line',2,1.0,'Done',NULL,'{"SceneId":"cac1c050-7e5f-4792-9748-31db955e0943","LineId":"8a8a56eb-fa17-4f3e-81d5-27090f767530","MemberId":"435dcd70-d110-448b-ad62-8216ee1a3896","Text":"Three in the morning, and the oven is finally hot. Patience, Bubb. Your flour is on the scale.","Kind":2,"Hash":null,"Name":"","Delivery":{"Speed":1,"Pitch":0.5,"Range":0.5,"Volume":1,"Pauses":0,"IsWhispered":false},"Punch":null}','Spoken in 0.4 s: 5.6 s of voice.','2026-11-26 07:48:44.3576205','2026-11-26 07:48:45.8396925');
INSERT INTO "Jobs" VALUES('15ADFD6E-55C8-463D-B2DF-121B6CDF4555','EC06C8F8-7135-4F8D-BEE7-6E0400E26791','speak','Speak a line',2,1.0,'Done',NULL,'{"SceneId":"cac1c050-7e5f-4792-9748-31db955e0943","LineId":"177ba992-3afd-4421-9de7-4be77fe0c9b5","MemberId":"0b5137b4-0f0b-432f-b18b-794823d5b808","Text":"Patience? You fed me at noon, and that was a hundred years ago!","Kind":2,"Hash":null,"Name":"","Delivery":{"Speed":1,"Pitch":0.5,"Range":0.5,"Volume":1,"Pauses":0,"IsWhispered":false},"Punch":null}','Spoken in 0.3 s: 4.4 s of voice.','2026-11-26 07:48:44.5018843','2026-11-26 07:48:46.5792297');
INSERT INTO "Jobs" VALUES('917A59EA-D3B4-4E5E-A740-25EC830E7DB0','EC06C8F8-7135-4F8D-BEE7-6E0400E26791','speak','Speak a line',2,1.0,'Done',NULL,'{"SceneId":"cac1c050-7e5f-4792-9748-31db955e0943","LineId":"3c4dcb4a-872f-48c8-bcd2-6e83f1c03722","MemberId":"e9de47ec-c650-46dc-9b1a-56107c03d28a","Text":"Correction. Fifteen hours and four minutes. And the rolls are done in nine.","Kind":2,"Hash":null,"Name":"","Delivery":{"Speed":1,"Pitch":0.5,"Range":0.5,"Volume":1,"Pauses":0,"IsWhispered":false},"Punch":null}','Spoken in 0.3 s: 4.8 s of voice.','2026-11-26 07:48:44.5159228','2026-11-26 07:48:47.0926036');
INSERT INTO "Jobs" VALUES('A7B25084-4173-4F37-B9F8-C5CEBB265697','EC06C8F8-7135-4F8D-BEE7-6E0400E26791','speak','Speak a line',2,1.0,'Done',NULL,'{"SceneId":"cac1c050-7e5f-4792-9748-31db955e0943","LineId":"3d82be1d-a5af-4026-a1a5-c053f4440e6d","MemberId":"435dcd70-d110-448b-ad62-8216ee1a3896","Text":"Nine? Oh, the rolls! Forty of them, one baker, and nobody to complain to but a jar and a clock.","Kind":2,"Hash":null,"Name":"","Delivery":{"Speed":1.08,"Pitch":0.6,"Range":0.75,"Volume":1.05,"Pauses":0,"IsWhispered":false},"Punch":null}','Spoken in 0.2 s: 6.3 s of voice.','2026-11-26 07:48:44.519998','2026-11-26 07:48:47.6878853');
CREATE TABLE "Lines" (
    "Id" TEXT NOT NULL CONSTRAINT "PK_Lines" PRIMARY KEY,
    "SceneId" TEXT NOT NULL,
    "CastMemberId" TEXT NOT NULL,
    "Order" INTEGER NOT NULL,
    "Text" TEXT NOT NULL,
    "Start" REAL NULL,
    "TakeId" TEXT NULL, "Pause" REAL NULL, "Delivery" TEXT NOT NULL DEFAULT '', "Also" TEXT NOT NULL DEFAULT '', "IsMute" INTEGER NOT NULL DEFAULT 0, "IsOffStage" INTEGER NOT NULL DEFAULT 0,
    CONSTRAINT "FK_Lines_CastMembers_CastMemberId" FOREIGN KEY ("CastMemberId") REFERENCES "CastMembers" ("Id") ON DELETE RESTRICT,
    CONSTRAINT "FK_Lines_Scenes_SceneId" FOREIGN KEY ("SceneId") REFERENCES "Scenes" ("Id") ON DELETE RESTRICT
);
INSERT INTO "Lines" VALUES('177BA992-3AFD-4421-9DE7-4BE77FE0C9B5','CAC1C050-7E5F-4792-9748-31DB955E0943','0B5137B4-0F0B-432F-B18B-794823D5B808',2,'Patience? You fed me at noon, and that was a hundred years ago!',NULL,'ACDCCCF0-4874-4D1B-BDCE-05299DA3F9A2',NULL,'{"speed":1,"pitch":0.5,"range":0.5,"volume":1,"pauses":0,"isWhispered":false}','',0,0);
INSERT INTO "Lines" VALUES('3C4DCB4A-872F-48C8-BCD2-6E83F1C03722','CAC1C050-7E5F-4792-9748-31DB955E0943','E9DE47EC-C650-46DC-9B1A-56107C03D28A',3,'Correction. Fifteen hours and four minutes. And the rolls are done in nine.',NULL,'B0D30C2F-74F6-4013-9F05-A89A71FE90AA',NULL,'{"speed":1,"pitch":0.5,"range":0.5,"volume":1,"pauses":0,"isWhispered":false}','',0,0);
INSERT INTO "Lines" VALUES('3D82BE1D-A5AF-4026-A1A5-C053F4440E6D','CAC1C050-7E5F-4792-9748-31DB955E0943','435DCD70-D110-448B-AD62-8216EE1A3896',4,'Nine? Oh, the rolls! Forty of them, one baker, and nobody to complain to but a jar and a clock.',NULL,'796A9C1A-0D18-4260-A4A6-C3098463E1F3',NULL,'{"speed":1.08,"pitch":0.6,"range":0.75,"volume":1.05,"pauses":0,"isWhispered":false}','',0,0);
INSERT INTO "Lines" VALUES('8A8A56EB-FA17-4F3E-81D5-27090F767530','CAC1C050-7E5F-4792-9748-31DB955E0943','435DCD70-D110-448B-AD62-8216EE1A3896',1,'Three in the morning, and the oven is finally hot. Patience, Bubb. Your flour is on the scale.',NULL,'C0BA3E92-0E6B-469C-852B-04AE14CF783A',NULL,'{"speed":1,"pitch":0.5,"range":0.5,"volume":1,"pauses":0,"isWhispered":false}','0b5137b4-0f0b-432f-b18b-794823d5b808 e9de47ec-c650-46dc-9b1a-56107c03d28a',0,0);
INSERT INTO "Lines" VALUES('067BBF50-8199-4ED7-A3D0-8D6D72DE4431','ADA256CE-82B0-4C9C-8A50-64A06CD378CD','F65FE752-F876-4E26-A2CE-D25BE9D7A5FE',3,'Correction. Fifteen hours and four minutes. And the rolls are done in nine.',NULL,'F88C9342-0B3E-483E-8D9C-4D0AB25C7231',NULL,'{"speed":1,"pitch":0.5,"range":0.5,"volume":1,"pauses":0,"isWhispered":false}','',0,0);
INSERT INTO "Lines" VALUES('1DCA964C-325A-41D3-8C3A-D960395F64FF','ADA256CE-82B0-4C9C-8A50-64A06CD378CD','3D7DBB3E-0E82-4BC1-ABE9-F14DB825269C',4,'Nine? Oh, the rolls! Forty of them, one baker, and nobody to complain to but a jar and a clock.',NULL,'7228E53D-290F-4310-B6F5-8FB076F6D7C2',NULL,'{"speed":1.08,"pitch":0.6,"range":0.75,"volume":1.05,"pauses":0,"isWhispered":false}','',0,0);
INSERT INTO "Lines" VALUES('6E7E983B-AD83-4210-B421-E80C6D986064','ADA256CE-82B0-4C9C-8A50-64A06CD378CD','3D7DBB3E-0E82-4BC1-ABE9-F14DB825269C',1,'Three in the morning, and the oven is finally hot. Patience, Bubb. Your flour is on the scale.',NULL,'FC5B5BD1-7581-4EC5-BDF5-4993CD606114',NULL,'{"speed":1,"pitch":0.5,"range":0.5,"volume":1,"pauses":0,"isWhispered":false}','05a10aa5-3a62-4313-b781-90591a39cc9d f65fe752-f876-4e26-a2ce-d25be9d7a5fe',0,0);
INSERT INTO "Lines" VALUES('EAF8E66A-36FC-4BE5-9221-C241C45CF71C','ADA256CE-82B0-4C9C-8A50-64A06CD378CD','05A10AA5-3A62-4313-B781-90591A39CC9D',2,'Patience? You fed me at noon, and that was a hundred years ago!',NULL,'4DD6A8F7-3FD1-4311-AF2D-874FC14D673A',NULL,'{"speed":1,"pitch":0.5,"range":0.5,"volume":1,"pauses":0,"isWhispered":false}','',0,0);
CREATE TABLE "Marks" (
    "Id" TEXT NOT NULL CONSTRAINT "PK_Marks" PRIMARY KEY,
    "TakeId" TEXT NOT NULL,
    "Start" REAL NOT NULL,
    "End" REAL NOT NULL,
    "IsVoice" INTEGER NOT NULL,
    CONSTRAINT "FK_Marks_Takes_TakeId" FOREIGN KEY ("TakeId") REFERENCES "Takes" ("Id") ON DELETE RESTRICT
);
INSERT INTO "Marks" VALUES('86D56AB7-6EC3-4BBE-A4A5-A58F5D5E89E8','ACDCCCF0-4874-4D1B-BDCE-05299DA3F9A2',0.1,0.3,0);
INSERT INTO "Marks" VALUES('D5EBD7D1-3EBD-4BD7-8396-637200BF4E13','4DD6A8F7-3FD1-4311-AF2D-874FC14D673A',0.1,0.3,0);
CREATE TABLE "MouthMotions" (
    "Id" TEXT NOT NULL CONSTRAINT "PK_MouthMotions" PRIMARY KEY,
    "Name" TEXT NOT NULL,
    "Duration" REAL NOT NULL,
    "Cues" TEXT NOT NULL,
    "Created" TEXT NOT NULL
);
CREATE TABLE "Pins" (
    "Id" TEXT NOT NULL CONSTRAINT "PK_Pins" PRIMARY KEY,
    "TakeId" TEXT NOT NULL,
    "Word" TEXT NOT NULL,
    "Near" REAL NOT NULL,
    "Phone" INTEGER NOT NULL,
    "Time" REAL NOT NULL,
    CONSTRAINT "FK_Pins_Takes_TakeId" FOREIGN KEY ("TakeId") REFERENCES "Takes" ("Id") ON DELETE RESTRICT
);
INSERT INTO "Pins" VALUES('B0E7C3FD-E5AA-4A3B-A729-610786F86C6B','B0D30C2F-74F6-4013-9F05-A89A71FE90AA','Correction',8.94331065759637194867e-02,1,0.2);
INSERT INTO "Pins" VALUES('17556A03-F1BF-4E37-924C-708C8BFBF7D5','F88C9342-0B3E-483E-8D9C-4D0AB25C7231','Correction',8.94331065759637194867e-02,1,0.2);
CREATE TABLE "Productions" (
    "Id" TEXT NOT NULL CONSTRAINT "PK_Productions" PRIMARY KEY,
    "Title" TEXT NOT NULL,
    "Width" INTEGER NOT NULL,
    "Height" INTEGER NOT NULL,
    "Rate" TEXT NOT NULL,
    "Revision" INTEGER NOT NULL,
    "HistoryPosition" INTEGER NOT NULL,
    "Created" TEXT NOT NULL,
    "Modified" TEXT NOT NULL,
    "DeletedAt" TEXT NULL
, "HandRevision" INTEGER NOT NULL DEFAULT 0);
INSERT INTO "Productions" VALUES('EC06C8F8-7135-4F8D-BEE7-6E0400E26791','Night Shift',1280,720,'25',17,15,'2026-11-26 07:48:43.7941532','2026-11-26 07:48:50.6512329',NULL,17);
INSERT INTO "Productions" VALUES('0DA4F83D-B041-4A8E-8568-2173A8F8D272','Night Shift copy',1280,720,'25',0,0,'2026-11-26 07:48:50.8166073','2026-11-26 07:48:50.8166074',NULL,0);
CREATE TABLE "Respellings" (
    "Id" TEXT NOT NULL CONSTRAINT "PK_Respellings" PRIMARY KEY,
    "ProductionId" TEXT NOT NULL,
    "Word" TEXT NOT NULL,
    "Written" TEXT NOT NULL,
    "Phones" TEXT NOT NULL,
    CONSTRAINT "FK_Respellings_Productions_ProductionId" FOREIGN KEY ("ProductionId") REFERENCES "Productions" ("Id") ON DELETE RESTRICT
);
INSERT INTO "Respellings" VALUES('563D70D0-962B-4CED-ACDA-064181301C06','EC06C8F8-7135-4F8D-BEE7-6E0400E26791','rolls','R OW L Z','R OW L Z');
INSERT INTO "Respellings" VALUES('46EB1376-8DD7-4046-9B9B-977496551DFF','0DA4F83D-B041-4A8E-8568-2173A8F8D272','rolls','R OW L Z','R OW L Z');
CREATE TABLE "SavedGestures" (
    "Id" TEXT NOT NULL CONSTRAINT "PK_SavedGestures" PRIMARY KEY,
    "Name" TEXT NOT NULL,
    "Data" TEXT NOT NULL,
    "Created" TEXT NOT NULL
);
CREATE TABLE "Scenes" (
    "Id" TEXT NOT NULL CONSTRAINT "PK_Scenes" PRIMARY KEY,
    "ProductionId" TEXT NOT NULL,
    "Order" INTEGER NOT NULL,
    "Title" TEXT NOT NULL,
    "Backdrop" TEXT NOT NULL,
    "LeadIn" REAL NOT NULL,
    "LeadOut" REAL NOT NULL, "Gap" REAL NOT NULL DEFAULT 0.20000000000000001,
    CONSTRAINT "FK_Scenes_Productions_ProductionId" FOREIGN KEY ("ProductionId") REFERENCES "Productions" ("Id") ON DELETE RESTRICT
);
INSERT INTO "Scenes" VALUES('CAC1C050-7E5F-4792-9748-31DB955E0943','EC06C8F8-7135-4F8D-BEE7-6E0400E26791',1,'Bakery, night','bakery',0.5,0.8,0.2);
INSERT INTO "Scenes" VALUES('ADA256CE-82B0-4C9C-8A50-64A06CD378CD','0DA4F83D-B041-4A8E-8568-2173A8F8D272',1,'Bakery, night','bakery',0.5,0.8,0.2);
CREATE TABLE "Sounds" (
    "Id" TEXT NOT NULL CONSTRAINT "PK_Sounds" PRIMARY KEY,
    "SceneId" TEXT NOT NULL,
    "Kind" INTEGER NOT NULL,
    "AssetHash" TEXT NOT NULL,
    "Name" TEXT NOT NULL,
    "Duration" REAL NOT NULL,
    "Start" REAL NOT NULL,
    "From" REAL NOT NULL,
    "Length" REAL NULL,
    "Gain" REAL NOT NULL,
    "FadeIn" REAL NOT NULL,
    "FadeOut" REAL NOT NULL,
    "Duck" REAL NOT NULL,
    "Loops" INTEGER NOT NULL,
    CONSTRAINT "FK_Sounds_Assets_AssetHash" FOREIGN KEY ("AssetHash") REFERENCES "Assets" ("Hash") ON DELETE RESTRICT,
    CONSTRAINT "FK_Sounds_Scenes_SceneId" FOREIGN KEY ("SceneId") REFERENCES "Scenes" ("Id") ON DELETE RESTRICT
);
INSERT INTO "Sounds" VALUES('DE05523B-1DFC-4863-A950-E09D1CE7B7C6','CAC1C050-7E5F-4792-9748-31DB955E0943',2,'5d4f86128d81f14d190fd774e509e2423229d72b6bc51f0bcf5db01318352f6e','ding.wav',1.0,1.0,0.0,NULL,0.0,0.0,0.0,0.0,0);
INSERT INTO "Sounds" VALUES('DC9E7746-F7DC-415B-8C5E-13B926C4FF1B','ADA256CE-82B0-4C9C-8A50-64A06CD378CD',2,'5d4f86128d81f14d190fd774e509e2423229d72b6bc51f0bcf5db01318352f6e','ding.wav',1.0,1.0,0.0,NULL,0.0,0.0,0.0,0.0,0);
CREATE TABLE "Takes" (
    "Id" TEXT NOT NULL CONSTRAINT "PK_Takes" PRIMARY KEY,
    "AssetHash" TEXT NOT NULL,
    "Created" TEXT NOT NULL,
    "Duration" REAL NOT NULL,
    "GuideHash" TEXT NULL,
    "GuideName" TEXT NOT NULL,
    "Kind" INTEGER NOT NULL,
    "LineId" TEXT NOT NULL,
    "Name" TEXT NOT NULL,
    "SpeechHash" TEXT NULL, "Care" TEXT NOT NULL DEFAULT '', "SpokenDelivery" TEXT NOT NULL DEFAULT '', "SpokenText" TEXT NOT NULL DEFAULT '', "PartEnd" REAL NULL, "PartStart" REAL NULL,
    CONSTRAINT "FK_Takes_Assets_AssetHash" FOREIGN KEY ("AssetHash") REFERENCES "Assets" ("Hash") ON DELETE RESTRICT,
    CONSTRAINT "FK_Takes_Assets_GuideHash" FOREIGN KEY ("GuideHash") REFERENCES "Assets" ("Hash") ON DELETE RESTRICT,
    CONSTRAINT "FK_Takes_Lines_LineId" FOREIGN KEY ("LineId") REFERENCES "Lines" ("Id") ON DELETE RESTRICT
);
INSERT INTO "Takes" VALUES('C0BA3E92-0E6B-469C-852B-04AE14CF783A','d786906aa50795b1c976c9d9681540c835f725528391ce3a835fd9dfdb726c31','2026-11-26 07:48:45.5479487',5.6191836734693874078e+00,NULL,'',2,'8A8A56EB-FA17-4F3E-81D5-27090F767530','espeak:en-gb+m3','8f3821e1205bb8647ab6d6c6be974898c32ffd3c932511a526c0017b68c9846a','','{"speed":1,"pitch":0.5,"range":0.5,"volume":1,"pauses":0,"isWhispered":false}','Three in the morning, and the oven is finally hot. Patience, Bubb. Your flour is on the scale.',NULL,NULL);
INSERT INTO "Takes" VALUES('ACDCCCF0-4874-4D1B-BDCE-05299DA3F9A2','ef84fba9764976b2fe6126135c7b0a220026d6046b93994e90757500f145aea9','2026-11-26 07:48:46.5702099',4.37061224489795918657e+00,NULL,'',2,'177BA992-3AFD-4421-9DE7-4BE77FE0C9B5','espeak:en-us+f4','aaa3da76e237fb342e53bdd4c54a97bc4941ec689bf3d9d1573e7a23aa1591ef','','{"speed":1,"pitch":0.5,"range":0.5,"volume":1,"pauses":0,"isWhispered":false}','Patience? You fed me at noon, and that was a hundred years ago!',NULL,NULL);
INSERT INTO "Takes" VALUES('B0D30C2F-74F6-4013-9F05-A89A71FE90AA','4b49736e31719e87ce7924a8c3ef840fc07aad39d459fbfc0838720263071462','2026-11-26 07:48:47.0856635',4.83201814058956902186e+00,NULL,'',2,'3C4DCB4A-872F-48C8-BCD2-6E83F1C03722','espeak:en-us+klatt4','95c8026e4f0479d6f5c88913e0f2f0a68694c9c9fd07673c17c6fa2a6179bea8','','{"speed":1,"pitch":0.5,"range":0.5,"volume":1,"pauses":0,"isWhispered":false}','Correction. Fifteen hours and four minutes. And the rolls are done in nine.',NULL,NULL);
INSERT INTO "Takes" VALUES('796A9C1A-0D18-4260-A4A6-C3098463E1F3','f51175a00faabc902bf8e4aaa26c49c6ea9e200052b7b29305b275b13fd3f5e6','2026-11-26 07:48:47.6787246',6.26970521541950098765e+00,NULL,'',2,'3D82BE1D-A5AF-4026-A1A5-C053F4440E6D','espeak:en-gb+m3','49c2aee37449bec69ed2ac5ea68154d1dfc2ae6ac521f6f28205ee8639425e9c','','{"speed":1.08,"pitch":0.6,"range":0.75,"volume":1.05,"pauses":0,"isWhispered":false}','Nine? Oh, the rolls! Forty of them, one baker, and nobody to complain to but a jar and a clock.',NULL,NULL);
INSERT INTO "Takes" VALUES('4DD6A8F7-3FD1-4311-AF2D-874FC14D673A','ef84fba9764976b2fe6126135c7b0a220026d6046b93994e90757500f145aea9','2026-11-26 07:48:46.5702099',4.37061224489795918657e+00,NULL,'',2,'EAF8E66A-36FC-4BE5-9221-C241C45CF71C','espeak:en-us+f4','aaa3da76e237fb342e53bdd4c54a97bc4941ec689bf3d9d1573e7a23aa1591ef','','{"speed":1,"pitch":0.5,"range":0.5,"volume":1,"pauses":0,"isWhispered":false}','Patience? You fed me at noon, and that was a hundred years ago!',NULL,NULL);
INSERT INTO "Takes" VALUES('7228E53D-290F-4310-B6F5-8FB076F6D7C2','f51175a00faabc902bf8e4aaa26c49c6ea9e200052b7b29305b275b13fd3f5e6','2026-11-26 07:48:47.6787246',6.26970521541950098765e+00,NULL,'',2,'1DCA964C-325A-41D3-8C3A-D960395F64FF','espeak:en-gb+m3','49c2aee37449bec69ed2ac5ea68154d1dfc2ae6ac521f6f28205ee8639425e9c','','{"speed":1.08,"pitch":0.6,"range":0.75,"volume":1.05,"pauses":0,"isWhispered":false}','Nine? Oh, the rolls! Forty of them, one baker, and nobody to complain to but a jar and a clock.',NULL,NULL);
INSERT INTO "Takes" VALUES('F88C9342-0B3E-483E-8D9C-4D0AB25C7231','4b49736e31719e87ce7924a8c3ef840fc07aad39d459fbfc0838720263071462','2026-11-26 07:48:47.0856635',4.83201814058956902186e+00,NULL,'',2,'067BBF50-8199-4ED7-A3D0-8D6D72DE4431','espeak:en-us+klatt4','95c8026e4f0479d6f5c88913e0f2f0a68694c9c9fd07673c17c6fa2a6179bea8','','{"speed":1,"pitch":0.5,"range":0.5,"volume":1,"pauses":0,"isWhispered":false}','Correction. Fifteen hours and four minutes. And the rolls are done in nine.',NULL,NULL);
INSERT INTO "Takes" VALUES('FC5B5BD1-7581-4EC5-BDF5-4993CD606114','d786906aa50795b1c976c9d9681540c835f725528391ce3a835fd9dfdb726c31','2026-11-26 07:48:45.5479487',5.6191836734693874078e+00,NULL,'',2,'6E7E983B-AD83-4210-B421-E80C6D986064','espeak:en-gb+m3','8f3821e1205bb8647ab6d6c6be974898c32ffd3c932511a526c0017b68c9846a','','{"speed":1,"pitch":0.5,"range":0.5,"volume":1,"pauses":0,"isWhispered":false}','Three in the morning, and the oven is finally hot. Patience, Bubb. Your flour is on the scale.',NULL,NULL);
CREATE TABLE "Touches" (
    "Id" TEXT NOT NULL CONSTRAINT "PK_Touches" PRIMARY KEY,
    "LineId" TEXT NOT NULL,
    "Order" INTEGER NOT NULL,
    "IsOn" INTEGER NOT NULL,
    "Title" TEXT NOT NULL,
    "Data" TEXT NOT NULL,
    CONSTRAINT "FK_Touches_Lines_LineId" FOREIGN KEY ("LineId") REFERENCES "Lines" ("Id") ON DELETE RESTRICT
);
INSERT INTO "Touches" VALUES('B0E062A3-E8C0-47A0-96C1-92900A0BB1B9','177BA992-3AFD-4421-9DE7-4BE77FE0C9B5',1,1,'Patience: Round','{"id":"b0e062a3-e8c0-47a0-96c1-92900a0bb1b9","kind":"Replace","start":0.5,"end":0.7,"cues":[{"shape":"Round","start":0.5,"peak":0.6,"end":0.7,"strength":1}],"factor":1,"from":null,"context":[{"word":"patience","phone":"P","start":0.05197278911564626,"end":0.08630385487528344},{"word":"patience","phone":"EY","start":0.08630385487528344,"end":0.33904761904761904},{"word":"patience","phone":"SH","start":0.33904761904761904,"end":0.436281179138322},{"word":"patience","phone":"AH","start":0.436281179138322,"end":0.4943310657596372},{"word":"patience","phone":"N","start":0.4943310657596372,"end":0.5584126984126984},{"word":"patience","phone":"S","start":0.5584126984126984,"end":0.6658956916099773},{"word":"you","phone":"Y","start":0.9978684807256236,"end":1.0704308390022677},{"word":"you","phone":"UW","start":1.0704308390022677,"end":1.1312925170068027},{"word":"fed","phone":"F","start":1.1312925170068027,"end":1.2109297052154195},{"word":"fed","phone":"EH","start":1.2109297052154195,"end":1.3531519274376418},{"word":"fed","phone":"D","start":1.3531519274376418,"end":1.4286167800453515},{"word":"me","phone":"M","start":1.4286167800453515,"end":1.4895691609977324},{"word":"me","phone":"IY","start":1.4895691609977324,"end":1.5331065759637188},{"word":"at","phone":"AE","start":1.5708390022675738,"end":1.6708390022675736},{"word":"at","phone":"T","start":1.6708390022675736,"end":1.7185034013605442},{"word":"noon","phone":"N","start":1.7185034013605442,"end":1.863628117913832},{"word":"noon","phone":"UW","start":1.863628117913832,"end":2.0755102040816324},{"word":"noon","phone":"N","start":2.0755102040816324,"end":2.204172335600907},{"word":"and","phone":"AE","start":2.3701587301587304,"end":2.434013605442177},{"word":"and","phone":"N","start":2.434013605442177,"end":2.4978684807256237},{"word":"and","phone":"D","start":2.4978684807256237,"end":2.5648072562358277},{"word":"that","phone":"DH","start":2.5648072562358277,"end":2.61124716553288},{"word":"that","phone":"AE","start":2.61124716553288,"end":2.7176417233560093},{"word":"that","phone":"T","start":2.7176417233560093,"end":2.7653061224489797},{"word":"was","phone":"W","start":2.7653061224489797,"end":2.8436734693877552},{"word":"was","phone":"AH","start":2.8436734693877552,"end":2.8756009070294786},{"word":"was","phone":"Z","start":2.8756009070294786,"end":2.927845804988662},{"word":"was","phone":"AH","start":2.927845804988662,"end":2.994512471655329},{"word":"hundred","phone":"HH","start":2.994512471655329,"end":3.0596371882086166},{"word":"hundred","phone":"AH","start":3.0596371882086166,"end":3.1641269841269843}]}');
INSERT INTO "Touches" VALUES('E1E0EDDE-BF1E-40D7-AE79-8D900500D8A4','EAF8E66A-36FC-4BE5-9221-C241C45CF71C',1,1,'Patience: Round','{"id":"b0e062a3-e8c0-47a0-96c1-92900a0bb1b9","kind":"Replace","start":0.5,"end":0.7,"cues":[{"shape":"Round","start":0.5,"peak":0.6,"end":0.7,"strength":1}],"factor":1,"from":null,"context":[{"word":"patience","phone":"P","start":0.05197278911564626,"end":0.08630385487528344},{"word":"patience","phone":"EY","start":0.08630385487528344,"end":0.33904761904761904},{"word":"patience","phone":"SH","start":0.33904761904761904,"end":0.436281179138322},{"word":"patience","phone":"AH","start":0.436281179138322,"end":0.4943310657596372},{"word":"patience","phone":"N","start":0.4943310657596372,"end":0.5584126984126984},{"word":"patience","phone":"S","start":0.5584126984126984,"end":0.6658956916099773},{"word":"you","phone":"Y","start":0.9978684807256236,"end":1.0704308390022677},{"word":"you","phone":"UW","start":1.0704308390022677,"end":1.1312925170068027},{"word":"fed","phone":"F","start":1.1312925170068027,"end":1.2109297052154195},{"word":"fed","phone":"EH","start":1.2109297052154195,"end":1.3531519274376418},{"word":"fed","phone":"D","start":1.3531519274376418,"end":1.4286167800453515},{"word":"me","phone":"M","start":1.4286167800453515,"end":1.4895691609977324},{"word":"me","phone":"IY","start":1.4895691609977324,"end":1.5331065759637188},{"word":"at","phone":"AE","start":1.5708390022675738,"end":1.6708390022675736},{"word":"at","phone":"T","start":1.6708390022675736,"end":1.7185034013605442},{"word":"noon","phone":"N","start":1.7185034013605442,"end":1.863628117913832},{"word":"noon","phone":"UW","start":1.863628117913832,"end":2.0755102040816324},{"word":"noon","phone":"N","start":2.0755102040816324,"end":2.204172335600907},{"word":"and","phone":"AE","start":2.3701587301587304,"end":2.434013605442177},{"word":"and","phone":"N","start":2.434013605442177,"end":2.4978684807256237},{"word":"and","phone":"D","start":2.4978684807256237,"end":2.5648072562358277},{"word":"that","phone":"DH","start":2.5648072562358277,"end":2.61124716553288},{"word":"that","phone":"AE","start":2.61124716553288,"end":2.7176417233560093},{"word":"that","phone":"T","start":2.7176417233560093,"end":2.7653061224489797},{"word":"was","phone":"W","start":2.7653061224489797,"end":2.8436734693877552},{"word":"was","phone":"AH","start":2.8436734693877552,"end":2.8756009070294786},{"word":"was","phone":"Z","start":2.8756009070294786,"end":2.927845804988662},{"word":"was","phone":"AH","start":2.927845804988662,"end":2.994512471655329},{"word":"hundred","phone":"HH","start":2.994512471655329,"end":3.0596371882086166},{"word":"hundred","phone":"AH","start":3.0596371882086166,"end":3.1641269841269843}]}');
CREATE TABLE "__EFMigrationsHistory" (
    "MigrationId" TEXT NOT NULL CONSTRAINT "PK___EFMigrationsHistory" PRIMARY KEY,
    "ProductVersion" TEXT NOT NULL
);
INSERT INTO "__EFMigrationsHistory" VALUES('20261125011205_Beginning','10.0.0');
INSERT INTO "__EFMigrationsHistory" VALUES('20261125034006_HandWork','10.0.0');
INSERT INTO "__EFMigrationsHistory" VALUES('20261125042829_Guide','10.0.0');
INSERT INTO "__EFMigrationsHistory" VALUES('20261125080800_Acting','10.0.0');
INSERT INTO "__EFMigrationsHistory" VALUES('20261125083618_Booth','10.0.0');
INSERT INTO "__EFMigrationsHistory" VALUES('20261125091754_Parts','10.0.0');
INSERT INTO "__EFMigrationsHistory" VALUES('20261125094607_Unison','10.0.0');
INSERT INTO "__EFMigrationsHistory" VALUES('20261125132016_Sounds','10.0.0');
INSERT INTO "__EFMigrationsHistory" VALUES('20261125151831_SavedGestures','10.0.0');
INSERT INTO "__EFMigrationsHistory" VALUES('20261125201105_HandRevisions','10.0.0');
CREATE TABLE "__EFMigrationsLock" (
    "Id" INTEGER NOT NULL CONSTRAINT "PK___EFMigrationsLock" PRIMARY KEY,
    "Timestamp" TEXT NOT NULL
);
CREATE INDEX "IX_CastMembers_ProductionId" ON "CastMembers" ("ProductionId");
CREATE UNIQUE INDEX "IX_History_ProductionId_Position" ON "History" ("ProductionId", "Position");
CREATE INDEX "IX_Jobs_ProductionId" ON "Jobs" ("ProductionId");
CREATE INDEX "IX_Lines_CastMemberId" ON "Lines" ("CastMemberId");
CREATE INDEX "IX_Lines_SceneId" ON "Lines" ("SceneId");
CREATE INDEX "IX_Scenes_ProductionId" ON "Scenes" ("ProductionId");
CREATE INDEX "IX_Marks_TakeId" ON "Marks" ("TakeId");
CREATE INDEX "IX_Pins_TakeId" ON "Pins" ("TakeId");
CREATE UNIQUE INDEX "IX_Respellings_ProductionId_Word" ON "Respellings" ("ProductionId", "Word");
CREATE INDEX "IX_Touches_LineId" ON "Touches" ("LineId");
CREATE INDEX "IX_Takes_AssetHash" ON "Takes" ("AssetHash");
CREATE INDEX "IX_Takes_GuideHash" ON "Takes" ("GuideHash");
CREATE INDEX "IX_Takes_LineId" ON "Takes" ("LineId");
CREATE INDEX "IX_Clips_CastMemberId" ON "Clips" ("CastMemberId");
CREATE INDEX "IX_Clips_LineId" ON "Clips" ("LineId");
CREATE INDEX "IX_Clips_SceneId" ON "Clips" ("SceneId");
CREATE INDEX "IX_Sounds_AssetHash" ON "Sounds" ("AssetHash");
CREATE INDEX "IX_Sounds_SceneId" ON "Sounds" ("SceneId");
DELETE FROM "sqlite_sequence";
INSERT INTO "sqlite_sequence" VALUES('History',16);
COMMIT;